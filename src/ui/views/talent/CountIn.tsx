'use client';
import { secondsUntil } from '@/state/talent/studioClock';
import { useTalent } from '@/state/talent/talent';
import { Sweep, type Left } from '../../components/Sweep';

/** When the talent begins and ends, in step with what is heard. */
function left(): Left | null {
  const { moving } = useTalent.getState();
  const toIn = typeof moving?.begins === 'number' ? secondsUntil(moving.begins) : null;
  if (toIn === null) return null;
  const toOut = typeof moving?.ends === 'number' ? secondsUntil(moving.ends) : null;
  return { toIn, toOut: toOut ?? toIn };
}

export function CountIn({ onPicture = false }: { onPicture?: boolean }) {
  const counts = useTalent((state) => typeof state.moving?.begins === 'number');
  const sweep = useTalent((state) => state.moving?.sweep ?? true);
  return counts ? <Sweep left={left} sweep={sweep} onPicture={onPicture} /> : null;
}
