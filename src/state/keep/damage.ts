import { say } from '@/texts/say';
import { create } from 'zustand';
import { formatTime } from '@/core/base/units';
import type { Damage } from '@/storage/integrity';
import { whenProjectCloses } from '../page/resets';
import { useProject } from '../project/openProject';
import { damageIn, repairFromCopy } from './copying';

/** Recordings of the open project that are not whole in this browser. */
export const useDamage = create<{ found: Damage[]; repairing: boolean }>(() => ({
  found: [],
  repairing: false,
}));

/** Looks through the project that has been opened, in the background. */
export async function lookForDamage(): Promise<void> {
  const id = useProject.getState().project?.id;
  if (!id) return;
  // Where it cannot be looked at, whatever is wrong is told where it is needed.
  const found = await damageIn(id).catch(() => []);
  if (useProject.getState().project?.id === id) useDamage.setState({ found });
}

/** Brings back what is missing from the copy in the folder; resolves to whether anything is whole again. */
export async function bringBack(): Promise<boolean> {
  const { found } = useDamage.getState();
  useDamage.setState({ repairing: true });
  try {
    return (await repairFromCopy(found.map(({ source }) => source))) > 0;
  } finally {
    useDamage.setState({ repairing: false });
  }
}

const mostTold = 4;

/** What is missing, and where, for whoever reads it. */
export function damageTold(found: readonly Damage[]): string {
  const told = found.slice(0, mostTold).map(({ name, rateHz, gaps }) => {
    const missing = gaps.reduce((sum, { from, to }) => sum + to - from, 0);
    return say`“${name}” (${formatTime(missing / rateHz, true)} from ${formatTime(gaps[0].from / rateHz, true)} on)`;
  });
  const more = found.length > mostTold ? say` and ${found.length - mostTold} more` : '';
  return say`Audio is missing in this browser’s storage: ${told.join(', ')}${more}. There it is silent; everything else of the project is whole and can be used.`;
}

whenProjectCloses(() => useDamage.setState({ found: [], repairing: false }));
