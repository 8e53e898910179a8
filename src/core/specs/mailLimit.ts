import { bitRatesKbps } from './fileFormat';

/** What mail usually takes, bytes (facts of the trade: *common practice*). */
export const usualMailBytes = 25e6;

/**
 * The highest constant bit rate, in mono, at which a file of that length stays under a size; null when even
 * the lowest does not.
 */
export function bitRateThatFits(seconds: number, bytes: number): number | null {
  const fitting = bitRatesKbps.filter((kbps) => (seconds * kbps * 1000) / 8 + 10_000 < bytes);
  return fitting[fitting.length - 1] ?? null;
}
