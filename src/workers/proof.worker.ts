import { cancelled } from '@/core/base/errors';
import { measurePart, spectrumOf, type MeasuredPart } from '@/core/specs/partMeter';
import { measureUnderSpeech } from '@/core/specs/underSpeech';
import { defaultChainLimits, rehearseChains, type MeasureWith } from '@/core/specs/chainPlan';
import { loudnessOfRanges } from '@/core/specs/voiceMatch';
import { joinJumps } from '@/core/timeline/joinJumps';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { BlockReader } from '@/storage/blockReader';
import { plannedVoices, withChains } from './planning';
import type { HeardPart, ProofJobs } from './proofJobs';
import type { JobContext } from './protocol';
import { serveJobs } from './serve';

/**
 * The last measurements, to go on from after an edit: of the parts that were measured last, as many as fit. A
 * part that is measured anew from its beginning has the same result, it only takes longer.
 */
const measured = new Map<string, MeasuredPart>();
const mostKeptSeconds = 4 * 3600;

function keep(partId: string, part: MeasuredPart) {
  measured.delete(partId);
  measured.set(partId, part);
  const all = [...measured.entries()];
  let seconds = all.reduce((sum, [, { measurement }]) => sum + measurement.durationSeconds, 0);
  for (const [id, { measurement }] of all.slice(0, -1)) {
    if (seconds <= mostKeptSeconds) break;
    measured.delete(id);
    seconds -= measurement.durationSeconds;
  }
}

const watch = ({ signal, progress }: JobContext, share = 1, before = 0) => ({
  progress: (done: number) => {
    if (signal.aborted) throw cancelled();
    progress(before + done * share);
  },
});

const rendererOf = ({ sounding, sources }: HeardPart, output = sounding.output) =>
  new PartRenderer({ ...sounding, output }, new BlockReader(sources));

/** About as often a plan is tried out at most; only progress depends on it. */
const mostTries = 12;

serveJobs<ProofJobs>({
  async measure({ partId, ...heard }, context) {
    const { sounding, channels } = heard;
    const part = rendererOf(heard);
    const earlier = measured.get(partId) ?? null;
    const { framesMeasured, ...result } = await measurePart(
      part,
      sounding,
      channels,
      earlier,
      watch(context),
    );
    keep(partId, result);
    const { lengthOf } = new BlockReader(heard.sources);
    const jumps = (await joinJumps(sounding, part, lengthOf)).map(({ from, to }) => ({
      from: from / sounding.rateHz,
      to: to / sounding.rateHz,
    }));
    return { measurement: result.measurement, jumps, reductionDb: part.reductionDb, framesMeasured };
  },

  plan({ spec, mostReductionDb, voices, ...heard }, context) {
    const { sounding, channels } = heard;
    const measure: MeasureWith = async (chains, output, turn) => {
      const changed = chains ? withChains(sounding, voices, chains) : sounding;
      const part = rendererOf({ ...heard, sounding: changed }, output);
      const quiet = watch(context, 1 / mostTries, Math.min(turn, mostTries - 1) / mostTries);
      const { measurement } = await measurePart(part, { ...changed, output }, channels, null, quiet);
      return { measurement, reductionDb: part.reductionDb };
    };
    const lookAtVoices = () => plannedVoices(heard, voices, watch(context, 0));
    return rehearseChains(spec, { mostReductionDb }, defaultChainLimits, lookAtVoices, measure);
  },

  underSpeech({ voices, bed, sources, passages }, context) {
    const reader = new BlockReader(sources);
    return measureUnderSpeech(
      new PartRenderer(voices, reader),
      new PartRenderer(bed, reader),
      passages,
      voices.rateHz,
      watch(context),
    );
  },

  rangesLoudness({ sounding, sources, ranges }, context) {
    const part = new PartRenderer(sounding, new BlockReader(sources));
    return loudnessOfRanges(part, ranges, sounding.rateHz, watch(context));
  },

  async forget() {
    measured.clear();
    return null;
  },

  spectrum: (heard, context) => spectrumOf(rendererOf(heard), heard.sounding.rateHz, watch(context)),
});
