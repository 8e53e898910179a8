import { cancelled } from '@/core/base/errors';
import { measurePart, spectrumOf, type MeasuredPart } from '@/core/specs/partMeter';
import { rehearseLevels } from '@/core/specs/rehearsal';
import { joinSteps } from '@/core/timeline/joinSteps';
import { PartRenderer, type Output } from '@/core/timeline/output';
import { loadSounding } from '@/core/timeline/sounding';
import { BlockReader } from '@/storage/blockReader';
import type { HeardPart, ProofJobs } from './proofJobs';
import type { JobContext } from './protocol';
import { serveJobs } from './serve';

/** The last measurement of each part, to go on from after an edit. */
const measured = new Map<string, MeasuredPart>();

const watch = ({ signal, progress }: JobContext, share = 1, before = 0) => ({
  progress: (done: number) => {
    if (signal.aborted) throw cancelled();
    progress(before + done * share);
  },
});

const rendererOf = ({ sounding, rateHz, sources, joins }: HeardPart, output = sounding.output) =>
  new PartRenderer({ ...loadSounding(sounding), output }, rateHz, new BlockReader(sources), joins);

serveJobs<ProofJobs>({
  async measure({ partId, ...heard }, context) {
    const { sounding, rateHz, channels } = heard;
    const part = rendererOf(heard);
    const earlier = measured.get(partId) ?? null;
    const { framesMeasured, ...result } = await measurePart(
      part,
      sounding,
      rateHz,
      channels,
      earlier,
      watch(context),
    );
    measured.set(partId, result);
    const tables = loadSounding(sounding).tracks.map(({ table }) => table);
    const { lengthOf } = new BlockReader(heard.sources);
    const steps = (await joinSteps(tables, part, rateHz, heard.joins, lengthOf)).map(({ from, to }) => ({
      from: from / rateHz,
      to: to / rateHz,
    }));
    return { measurement: result.measurement, steps, reductionDb: part.reductionDb, framesMeasured };
  },

  plan({ spec, mostReductionDb, ...heard }, context) {
    const { sounding, rateHz, channels } = heard;
    const measure = async (output: Output | undefined, turn: number) => {
      const part = rendererOf(heard, output);
      const quiet = watch(context, 0.25, Math.min(0.75, turn * 0.25));
      const { measurement } = await measurePart(part, { ...sounding, output }, rateHz, channels, null, quiet);
      return { measurement, reductionDb: part.reductionDb };
    };
    return rehearseLevels(spec, { mostReductionDb }, measure);
  },

  spectrum: (heard, context) => spectrumOf(rendererOf(heard), heard.rateHz, watch(context)),
});
