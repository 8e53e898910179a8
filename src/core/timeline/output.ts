import type { Ceiling } from '../dsp/limiter';

/**
 * What is done to a whole part after its tracks are put together: offset taken out, gain, ceiling, in this
 * order.
 */
export interface Output {
  readonly gainDb: number;
  /** Linear, taken off the left and the right side, or the only channel. */
  readonly dcOffsets: readonly number[];
  readonly ceiling: Ceiling | null;
}

export const plainOutput: Output = { gainDb: 0, dcOffsets: [0, 0], ceiling: null };

export const sameOutput = (a: Output | undefined, b: Output | undefined) =>
  JSON.stringify(a ?? plainOutput) === JSON.stringify(b ?? plainOutput);
