import { LongTermSpectrum } from '../dsp/longTermSpectrum';
import { Meter, type Measurement, type MeterMark } from '../loudness/measure';
import { commonFrames } from '../timeline/changedRange';
import { longestReach } from '../timeline/joins';
import type { PartRenderer } from '../timeline/partRenderer';
import { sameSetting, tracksOf, type Sounding } from '../timeline/sounding';

const chunkSeconds = 2;
const markSeconds = 20;

/** A part that was measured, with what it takes to measure it again after an edit. */
export interface MeasuredPart {
  sounding: Sounding;
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
 * Measures what is heard of a part. With an earlier measurement of it, only what an edit has changed is
 * measured again: the measurement goes on from the last mark before the change, and takes over the rest of
 * the earlier one from the first mark after it at which everything is the same. The result is the same to the
 * last bit either way.
 */
export async function measurePart(
  part: PartRenderer,
  sounding: Sounding,
  channels: number,
  earlier: MeasuredPart | null,
  { progress }: Watch,
): Promise<MeasuredPart & { framesMeasured: number }> {
  const { rateHz } = sounding;
  const to = part.heardFrames;
  const known = earlier && earlier.channels === channels ? earlier : null;
  const change = known ? changeBetween(known.sounding, sounding) : null;
  const reach = known ? Math.max(joinReach(known.sounding), joinReach(sounding)) + part.reach : 0;
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
    meter.process(await part.mix({ delivering: channels }, at, frames));
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

/** How far joins reach beyond a change of pieces; what is done to the sound reaches further. */
const joinReach = (sounding: Sounding): number =>
  Math.max(0, ...tracksOf(sounding).map(({ table }) => longestReach(table, sounding.joins)));

/** What two soundings have in common on all tracks; null when nothing can be told. */
function changeBetween(before: Sounding, after: Sounding) {
  if (!sameSetting(before, after)) return null;
  const all = before.tracks.map(({ pieces }, index) => commonFrames(pieces, after.tracks[index].pieces));
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
  for await (const [samples] of part.stream({ delivering: 1 }, { from: 0, to: part.heardFrames }, step)) {
    spectrum.process(samples);
    progress(0);
  }
  return spectrum.finish();
}
