import { ratesOfClocks, type Alignment } from '../dsp/alignment';
import { ownTime } from './clock';
import type { FarRecording } from './messages';

/**
 * What is at second t of the line's sound is at second `offsetSeconds + t × (1 + ppm ÷ 10⁶)` of a recording
 * that was made at the far side, by the clocks alone; null where they were not compared. `startsAt` is the
 * second of the studio's clock at the first frame of the line's sound, which was `delaySeconds` on its way.
 */
export function placeByClocks(
  { clock, startsAt }: Pick<FarRecording, 'clock' | 'startsAt'>,
  line: { readonly startsAt: number; readonly delaySeconds: number },
): Pick<Alignment, 'offsetSeconds' | 'ppm'> | null {
  if (!clock) return null;
  const offsetSeconds = ownTime(clock, line.startsAt - line.delaySeconds) - startsAt;
  return { offsetSeconds, ppm: (1 / (1 + clock.ppm / 1e6) - 1) * 1e6 };
}

/** How a recording becomes what lies frame for frame over the line's sound. */
export interface Laying {
  /** Rates to convert between; null where samples are taken as they are. */
  readonly convert: { readonly fromHz: number; readonly toHz: number } | null;
  /** The frame, once converted, that lies over the first of the line's sound. */
  readonly first: number;
}

/**
 * Clocks that are apart by less at the end of a recording than at its beginning are taken for one: it lies
 * right in its middle, and within a thousandth of a second at both ends. What was recorded is kept as it is
 * for that; a take of less than ten seconds is never converted (`clock.ts`: 200 ppm at most).
 */
const leastDriftSeconds = 0.002;

/** `seconds` is the length of the line's sound, `farHz` the rate of the recording. */
export function planLaying(
  { offsetSeconds, ppm }: Pick<Alignment, 'offsetSeconds' | 'ppm'>,
  farHz: number,
  rateHz: number,
  seconds: number,
): Laying {
  const drift = (ppm / 1e6) * seconds;
  if (Math.abs(drift) < leastDriftSeconds) {
    const convert = farHz === rateHz ? null : { fromHz: farHz, toHz: rateHz };
    return { convert, first: Math.round((offsetSeconds + drift / 2) * rateHz) };
  }
  const clocks = ratesOfClocks({ ppm });
  // Hundredths of a hertz of drift over whole rates: both are whole, and exact in a double.
  const scale = farHz / rateHz;
  return {
    convert: { fromHz: Math.round(clocks.fromHz * scale), toHz: clocks.toHz },
    first: Math.round((offsetSeconds / (1 + ppm / 1e6)) * rateHz),
  };
}
