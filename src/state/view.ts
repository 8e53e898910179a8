import { create } from 'zustand';
import { readSetting, writeSetting } from '@/storage/settings';

/** How the Booth is looked at; belongs to this browser, not to a project. */
export interface BoothView {
  secondsPerRow: number;
  panel: 'script' | 'takes' | 'marks';
  keysShown: boolean;
}

export const secondsPerRowChoices = [2, 5, 8, 12, 20, 30, 60, 120] as const;

export const useView = create<BoothView>(() => ({ secondsPerRow: 12, panel: 'script', keysShown: false }));

export function setSecondsPerRow(secondsPerRow: number): void {
  useView.setState({ secondsPerRow });
  void writeSetting('secondsPerRow', secondsPerRow).catch(() => undefined);
}

/** One step nearer (−1: fewer seconds a row) or further (+1). */
export function zoom(step: -1 | 1): void {
  const { secondsPerRow } = useView.getState();
  const index = secondsPerRowChoices.findIndex((choice) => choice >= secondsPerRow) + step;
  const choice = secondsPerRowChoices[index];
  if (choice) setSecondsPerRow(choice);
}

export async function readView(): Promise<void> {
  const stored = await readSetting<number>('secondsPerRow').catch(() => undefined);
  if (secondsPerRowChoices.some((choice) => choice === stored)) useView.setState({ secondsPerRow: stored });
}
