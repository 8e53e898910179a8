import { longestPauseMs } from '../keep/workLog';
import { byWeight, adviseOn, adviseToMatch, compareChecks, type Advice } from './advice';
import type { LevelProfile } from './levelProfiles';
import type { SoundCheck } from './soundCheck';

/**
 * When the session that runs at `now` began, by the moments at which something was done before it: the first
 * of those that no long pause keeps apart from now; `now` itself where nothing was done lately. All in
 * milliseconds since 1970.
 */
export function sessionSince(now: number, moments: readonly number[]): number {
  let since = now;
  for (const moment of [...moments].sort((a, b) => b - a)) {
    if (since - moment > longestPauseMs) break;
    since = Math.min(since, moment);
  }
  return since;
}

/** The moment before the running session at which something was done last; null where it is the first one. */
export function lastBefore(since: number, moments: readonly number[]): number | null {
  const earlier = moments.filter((moment) => moment < since);
  return earlier.length === 0 ? null : Math.max(...earlier);
}

/**
 * What a sound check of this session says: how it differs from the reference and what of it would have to
 * change before recording; by itself where there is no reference. The most pressing first.
 */
export function sayOfCheck(check: SoundCheck, reference: SoundCheck | null, profile: LevelProfile): Advice[] {
  const own = adviseOn(check, profile);
  if (!reference) return own;
  return byWeight([
    ...own.filter(({ weight }) => weight === 'must'),
    ...adviseToMatch(compareChecks(check, reference)),
  ]);
}
