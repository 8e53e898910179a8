import { create } from 'zustand';
import { workCsv, type WorkSession } from '@/core/keep/workLog';
import { allSessions } from '@/storage/workLog';
import { handOverText } from '../page/jobs';

/** All sessions of this browser; null until they have been read. */
export const useWork = create<{ sessions: WorkSession[] | null }>(() => ({ sessions: null }));

export async function readWork(): Promise<void> {
  useWork.setState({ sessions: await allSessions() });
}

export const saveWorkCsv = (sessions: readonly WorkSession[]): void =>
  handOverText('parola-work.csv', workCsv(sessions));
