import { secondsToFrames } from '../base/units';
import { LongTermSpectrum } from '../dsp/longTermSpectrum';
import { Meter, type Measurement, type MeterMark } from '../loudness/measure';
import { commonFrames } from '../timeline/changedRange';
import { sameOutput, type PartRenderer } from '../timeline/output';
import type { StoredSounding } from '../timeline/sounding';

const chunkSeconds = 2;
const markSeconds = 20;
/** Joins and the limiter reach this far beyond an edit, generously. */
const reachSeconds = 1;

/** A part that was measured, with what it takes to measure it again after an edit. */
export interface MeasuredPart {
  sounding: StoredSounding;
  channels: number;
  meter: Meter;
  marks: MeterMark[];
  measurement: Measurement;
}

export interface Watch {
  /** Called with 0 to 1; throws to end the measurement. */
  progress: (done: number) => void;
}

/**
 * Measures what is heard of a part. With an earlier measurement of it, only what an edit has changed is measured again: the measurement goes on from the last mark before the
 * change, and takes over the rest of the earlier one from the first mark after it at which everything is the same. The result is the same to the last bit either way.
 */
export async function measurePart(
  part: PartRenderer,
  sounding: StoredSounding,
  rateHz: number,
  channels: number,
  earlier: MeasuredPart | null,
  { progress }: Watch,
): Promise<MeasuredPart & { framesMeasured: number }> {
  const to = part.heardFrames;
  const known = earlier && earlier.channels === channels ? earlier : null;
  const reach = secondsToFrames(reachSeconds, rateHz);
  const change = known ? changeBetween(known.sounding, sounding) : null;
  const marks = known && change ? known.marks.filter(({ frames }) => frames <= change.head - reach) : [];
  const meter = new Meter(rateHz, channels);
  if (marks.length > 0) meter.resume(marks[marks.length - 1]);
  let at = marks[marks.length - 1]?.frames ?? 0;
  const first = at;
  // Marks stand on hops, and every mark at the same frame as in earlier measurements.
  const step = meter.hopFrames * Math.round((chunkSeconds * rateHz) / meter.hopFrames);
  const markEvery = Math.round(markSeconds / chunkSeconds) * step;
  const same = change && change.before === change.after ? change.after - change.tail + reach : Infinity;
  while (at < to) {
    progress(at / to);
    const frames = Math.min(step, to - at);
    meter.process(await part.channels(at, frames, channels));
    at += frames;
    if (at % markEvery !== 0 || at >= to) continue;
    const mark = meter.mark();
    marks.push(mark);
    const theirs = at >= same ? known?.marks.find((candidate) => candidate.frames === at) : undefined;
    if (known && theirs && meter.takeOver(known.meter, theirs)) {
      const later = known.marks.filter((candidate) => candidate.frames > at);
      marks.push(...meter.rebase(later, theirs, mark));
      break;
    }
  }
  const measurement = meter.finish();
  return { sounding, channels, meter, marks, measurement, framesMeasured: at - first };
}

/** What two soundings have in common on all tracks; null when nothing can be told. */
function changeBetween(before: StoredSounding, after: StoredSounding) {
  if (before.tracks.length !== after.tracks.length || !sameOutput(before.output, after.output)) return null;
  const commons = before.tracks.map(({ pieces, side }, index) =>
    side === after.tracks[index].side ? commonFrames(pieces, after.tracks[index].pieces) : null,
  );
  if (commons.some((common) => common === null)) return null;
  const all = commons.filter((common) => common !== null);
  return {
    head: Math.min(...all.map(({ head }) => head)),
    tail: Math.min(...all.map(({ tail }) => tail)),
    before: all[0].before,
    after: all[0].after,
  };
}

/** Long-term mean spectrum of a part in third-octave bands (see LongTermSpectrum). */
export async function spectrumOf(part: PartRenderer, rateHz: number, { progress }: Watch): Promise<number[]> {
  const spectrum = new LongTermSpectrum(rateHz);
  const step = chunkSeconds * rateHz;
  for await (const [samples] of part.stream({ from: 0, to: part.heardFrames }, step, 1)) {
    spectrum.process(samples);
    progress(0);
  }
  return spectrum.finish();
}
