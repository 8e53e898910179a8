import { SteadyClock } from '@/core/far/steadyClock';
import { newId } from '@/storage/projects';
import { currentEngine } from '../hearing/engine';

interface Life {
  readonly id: string;
  readonly clock: SteadyClock;
}

/** A context's clock begins with it: seconds of another one mean nothing. */
const lives = new WeakMap<AudioContext, Life>();

function lifeOf(context: AudioContext): Life {
  const life = lives.get(context) ?? { id: newId(), clock: new SteadyClock() };
  lives.set(context, life);
  return life;
}

/** The clock of what is captured and played in this page now; null while there is no sound. */
export function audioClock(): { life: string; seconds: number } | null {
  const context = currentEngine()?.context;
  if (!context) return null;
  const { id, clock } = lifeOf(context);
  return { life: id, seconds: clock.read(context.currentTime, performance.now() / 1000) };
}
