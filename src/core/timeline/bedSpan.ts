import { dbToAmplitude } from '../base/units';
import type { HeardClip } from './bedTime';
import { fallingGain, risingGain } from './joins';

/**
 * The stretch of its source that a clip plays over frames [from, to) of its own, as one even where it goes
 * round: good for pictures and meters.
 */
export function sourceSpan(
  { from: first, loop }: HeardClip,
  from: number,
  to: number,
): { from: number; to: number } {
  const start = first + from;
  if (!loop || start < loop.to) return { from: start, to: first + to };
  const inLoop = loop.from + ((start - loop.to) % (loop.to - loop.from));
  return { from: inLoop, to: Math.min(loop.to, inLoop + to - from) };
}

/** A clip's own gain at a heard frame: its level and its fades. */
export function gainWithin(clip: HeardClip, frame: number): number {
  const end = clip.at + clip.frames;
  const rising = { from: clip.at, to: clip.at + clip.fadeIn, shape: 'smooth' as const };
  const falling = { from: end - clip.fadeOut, to: end, shape: 'smooth' as const };
  return (
    dbToAmplitude(clip.levelDb) *
    (frame < rising.to ? risingGain(rising, frame) : 1) *
    (frame >= falling.from ? fallingGain(falling, frame) : 1)
  );
}
