import { create } from 'zustand';
import { readSetting, writeSetting } from '@/storage/settings';

/** How the Booth is looked at and listened to; belongs to this browser, not to a project. */
export interface BoothView {
  secondsPerRow: number;
  /** Height of a stave over the usual one. */
  staveScale: number;
  /** What the sheet shows of the sound. */
  picture: 'wave' | 'spectrum';
  /** The picture of a part that has one is seen. */
  film: boolean;
  loupe: boolean;
  loupePicture: 'wave' | 'spectrum';
  /** Seconds the loupe shows. */
  loupeSeconds: number;
  panel: 'script' | 'cues' | 'takes' | 'marks' | 'finds';
  keysShown: boolean;
  /** Playing speed, at the same pitch. */
  speed: number;
  /** A selection or join that is played begins again at its end. */
  loop: boolean;
  /** The script, large and dark, over everything else. */
  prompter: boolean;
  prompterSize: number;
}

export const secondsPerRowChoices = [0.5, 1, 2, 5, 8, 12, 20, 30, 60, 120, 300, 600] as const;
export const staveScaleChoices = [0.5, 1, 1.5, 2, 3] as const;
export const speedChoices = [0.75, 1, 1.25, 1.5, 2] as const;
/** From 240 samples at 48 kHz to what a row shows. */
export const loupeSecondsChoices = [0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2, 4, 8] as const;
export const prompterSizeChoices = [24, 30, 36, 44, 54, 66, 80] as const;

export const useView = create<BoothView>(() => ({
  secondsPerRow: 12,
  staveScale: 1,
  picture: 'wave',
  film: true,
  loupe: false,
  loupePicture: 'wave',
  loupeSeconds: 2,
  panel: 'script',
  keysShown: false,
  speed: 1,
  loop: false,
  prompter: false,
  prompterSize: 44,
}));

/** What is remembered from one visit to the next. */
const kept = ['secondsPerRow', 'staveScale', 'picture', 'loupe', 'loupeSeconds', 'prompterSize'] as const;

/** Changes the view, and remembers it. */
export function setView(changes: Partial<BoothView>): void {
  useView.setState(changes);
  for (const name of kept)
    if (name in changes) void writeSetting(name, useView.getState()[name]).catch(() => undefined);
}

export const setSecondsPerRow = (secondsPerRow: number) => setView({ secondsPerRow });

/** The choice one step beside the current one; the current one at the end of the list. */
export function stepOf<T extends number>(choices: readonly T[], current: number, step: -1 | 1): T {
  const nearest = choices.reduce(
    (best, choice, index) => (Math.abs(choice - current) < Math.abs(choices[best] - current) ? index : best),
    0,
  );
  return choices[Math.max(0, Math.min(choices.length - 1, nearest + step))];
}

/** One step nearer (−1: fewer seconds a row) or further (+1). */
export const zoom = (step: -1 | 1) =>
  setSecondsPerRow(stepOf(secondsPerRowChoices, useView.getState().secondsPerRow, step));

export async function readView(): Promise<void> {
  const choices = {
    secondsPerRow: secondsPerRowChoices,
    staveScale: staveScaleChoices,
    loupeSeconds: loupeSecondsChoices,
    prompterSize: prompterSizeChoices,
  };
  for (const [name, allowed] of Object.entries(choices)) {
    const stored = await readSetting<number>(name).catch(() => undefined);
    if (allowed.some((choice) => choice === stored)) useView.setState({ [name]: stored });
  }
  const loupe = await readSetting<boolean>('loupe').catch(() => undefined);
  const picture = await readSetting<string>('picture').catch(() => undefined);
  useView.setState({ loupe: loupe === true, picture: picture === 'spectrum' ? 'spectrum' : 'wave' });
}
