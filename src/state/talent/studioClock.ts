import { ownTime, type ClockLine } from '@/core/far/clock';
import { audioClock } from '../far/clock';

let studio: () => ClockLine | null = () => null;

/** How the studio's clock goes by the own one is known there. */
export const onStudioClock = (line: typeof studio) => (studio = line);

/** Seconds from now until a moment of the studio's clock; null where nobody knows. */
export function secondsUntil(studioSeconds: number): number | null {
  const line = studio();
  const clock = audioClock();
  return line && clock ? ownTime(line, studioSeconds) - clock.seconds : null;
}

export function secondsSince(studioSeconds: number): number | null {
  const until = secondsUntil(studioSeconds);
  return until === null ? null : -until;
}
