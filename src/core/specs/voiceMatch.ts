import { clamp } from '../base/units';
import { Meter } from '../loudness/measure';
import type { PartRenderer } from '../timeline/partRenderer';
import { stripLimits } from '../timeline/mix';
import type { Range } from '../timeline/range';
import type { Watch } from './partMeter';

/** A voice's own speech, as loud as it is in the mix: LUFS, null where it says too little to be measured. */
export interface VoiceLoudness {
  readonly id: string;
  readonly name: string;
  readonly levelDb: number;
  readonly lufs: number | null;
}

/** A level that brings a voice to the loudness of the others. */
export interface VoiceMatch extends VoiceLoudness {
  readonly lufs: number;
  readonly matchedDb: number;
}

const chunkSeconds = 2;

/** The integrated loudness (ITU-R BS.1770) of some heard ranges of a part alone; null for silence. */
export async function loudnessOfRanges(
  part: PartRenderer,
  ranges: readonly Range[],
  rateHz: number,
  { progress }: Watch,
): Promise<number | null> {
  const meter = new Meter(rateHz, 1);
  for (const [index, range] of ranges.entries()) {
    progress(index / ranges.length);
    for await (const channels of part.stream({ delivering: 1 }, range, chunkSeconds * rateHz))
      meter.process(channels);
  }
  const { integratedLufs } = meter.finish();
  return Number.isFinite(integratedLufs) ? integratedLufs : null;
}

/**
 * Levels, in steps of a tenth of a decibel, at which all voices are as loud as they are on average; voices
 * that were not measured stay. Null with fewer than two to compare.
 */
export function matchVoices(voices: readonly VoiceLoudness[]): VoiceMatch[] | null {
  const measured = voices.filter((voice): voice is VoiceLoudness & { lufs: number } => voice.lufs !== null);
  if (measured.length < 2) return null;
  const mean = measured.reduce((sum, { lufs }) => sum + lufs, 0) / measured.length;
  return measured.map((voice) => ({
    ...voice,
    matchedDb: clamp(
      Math.round(10 * (voice.levelDb + mean - voice.lufs)) / 10,
      stripLimits.lowestDb,
      stripLimits.highestDb,
    ),
  }));
}
