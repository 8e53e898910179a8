import { say } from '../../texts/say';
import { Meter } from '../loudness/measure';
import type { PartRenderer } from '../timeline/partRenderer';
import type { Range } from '../timeline/range';
import type { Watch } from './partMeter';

/** How loud voices and a bed are in one passage of speech. */
export interface UnderSpeech extends Range {
  /** Integrated loudness of the passage, LUFS; null for what is silent or shorter than 400 ms. */
  readonly voicesLufs: number | null;
  readonly bedLufs: number | null;
}

/**
 * How far under the voices a bed is to lie. `wcag`: background sounds at least 20 dB under speech, WCAG 2.2,
 * success criterion 1.4.7. `usual`: 12 to 18 LU, *common practice*.
 */
export const bedLimits = {
  usual: { name: say`usual, 12 to 18 LU`, leastLu: 12, mostLu: 18 },
  wcag: { name: say`WCAG 2.2, 1.4.7: 20 dB`, leastLu: 20, mostLu: Infinity },
} as const;
export type BedLimit = keyof typeof bedLimits;

/** Loudness units by which the bed lies under the voices; null where either is silent. */
export const luUnder = ({ voicesLufs, bedLufs }: UnderSpeech): number | null =>
  voicesLufs === null || bedLufs === null ? null : voicesLufs - bedLufs;

const chunkSeconds = 2;

async function loudnessIn(part: PartRenderer, range: Range, rateHz: number): Promise<number | null> {
  const meter = new Meter(rateHz, 2);
  for await (const channels of part.stream({ delivering: 2 }, range, chunkSeconds * rateHz))
    meter.process(channels);
  const { integratedLufs } = meter.finish();
  return Number.isFinite(integratedLufs) ? integratedLufs : null;
}

/** Measures voices and bed, each as it is heard in the mix, in every passage. */
export async function measureUnderSpeech(
  voices: PartRenderer,
  bed: PartRenderer,
  passages: readonly Range[],
  rateHz: number,
  { progress }: Watch,
): Promise<UnderSpeech[]> {
  const result: UnderSpeech[] = [];
  for (const { from, to } of passages) {
    progress(result.length / passages.length);
    const range = { from, to };
    result.push({
      ...range,
      voicesLufs: await loudnessIn(voices, range, rateHz),
      bedLufs: await loudnessIn(bed, range, rateHz),
    });
  }
  return result;
}
