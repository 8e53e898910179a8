import { create } from 'zustand';
import { minutesLeft } from '@/core/keep/space';
import { useTransport } from '../hearing/transport';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject, useProject } from '../project/openProject';
import { armedToRecord } from '../recording/recordPlan';
import { askToKeep, lookAtSpace, useSpace } from './browserSpace';

/** How long can be recorded on the tracks that are armed, in minutes; null where nobody knows. */
export const useMinutesLeft = create<{ minutes: number | null }>(() => ({ minutes: null }));

const everyMs = 60_000;
let asked = false;

async function lookAtMinutes(): Promise<void> {
  await lookAtSpace();
  const free = useSpace.getState().browser?.freeBytes ?? null;
  const tracks = Math.max(1, armedToRecord().length);
  useMinutesLeft.setState({ minutes: free === null ? null : minutesLeft(free, rateOfProject(), tracks) });
}

/**
 * Follows the space while a project is open. Once something has been recorded, the browser is asked to keep
 * its storage: then there is something to keep, and somebody sees why it asks.
 */
export function followSpace(): () => void {
  void lookAtMinutes();
  const timer = setInterval(() => void lookAtMinutes(), everyMs);
  const unfollow = useTransport.subscribe(({ mode }, before) => {
    if (before.mode === mode || mode !== 'idle' || before.mode === 'playing') return;
    void lookAtMinutes().then(askOnce);
  });
  return () => {
    clearInterval(timer);
    unfollow();
  };
}

async function askOnce() {
  const { project, sources } = useProject.getState();
  if (asked || !project || sources.size === 0 || useSpace.getState().browser?.persisted !== false) return;
  asked = true;
  await askToKeep(false);
}

whenProjectCloses(() => useMinutesLeft.setState({ minutes: null }));
