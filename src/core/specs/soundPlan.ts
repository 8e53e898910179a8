import { secondsToFrames } from '../base/units';
import type { Measurement } from '../loudness/measure';
import type { SoundFix } from '../timeline/fixEdits';
import type { Limit, Spec } from './spec';

/**
 * Room tone is cut or added in one go to where the ends of words and the measuring windows cannot tip it out
 * again.
 */
const edgeSeconds = 0.2;

/** How long an end should be: as it is while it is allowed, else a good way inside the limits. */
export function endTarget(seconds: number, limit: Limit | null): number {
  if (!limit) return seconds;
  const { min, max } = limit;
  if ((min === null || seconds >= min) && (max === null || seconds <= max)) return seconds;
  if (min === null) return Math.max(0, (max ?? 0) - edgeSeconds);
  const beyond = min + Math.max(edgeSeconds, Math.min(1, min));
  return max === null ? beyond : Math.min(beyond, (min + max) / 2);
}

/** What has to be done to the ends and the holes of a part, in frames; null when nothing has. */
export function planSound(spec: Spec, measurement: Measurement): SoundFix | null {
  const { rateHz, headSeconds, tailSeconds, silences } = measurement;
  const frames = (seconds: number) => secondsToFrames(seconds, rateHz);
  const spoken = Number.isFinite(measurement.speechDbfs);
  const head = spoken ? endTarget(headSeconds, spec.limits.headSeconds) - headSeconds : 0;
  const tail = spoken ? endTarget(tailSeconds, spec.limits.tailSeconds) - tailSeconds : 0;
  const holes = silences.map(({ from, to }) => ({ from: frames(from), to: frames(to) }));
  if (head === 0 && tail === 0 && holes.length === 0) return null;
  return { head: frames(head), tail: frames(tail), holes };
}
