import { say } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { defaultLevelChoice, profileOf } from '@/core/recording/levelProfiles';
import type { Advice } from '@/core/recording/advice';
import { lastBefore, sayOfCheck, sessionSince } from '@/core/recording/sessionStart';
import { checksOfProject } from '@/storage/checks';
import type { InputChoice, SoundCheckRecord } from '@/storage/schema';
import { finishSource, removeSource } from '@/storage/sources';
import { useTransport } from '../hearing/transport';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject, useProject } from '../project/openProject';
import { recordRoom } from './checking';
import { armedNow, chooseInput, inputName, useInput } from './input';
import { openedInput } from './openInputs';
import { rememberTone, useSoundCheck } from './soundCheck';

interface SessionStart {
  shown: boolean;
  /** When the session that runs began, and when something was recorded last before it. */
  since: number;
  lastAt: number | null;
  /** The input of the session before. */
  lastInput: InputChoice | null;
  /** Sound checks of the project, the newest first, as they are known without the dialog. */
  checks: readonly SoundCheckRecord[];
  /** Second of the page's clock at which the room began to be recorded; null when it is not. */
  roomSince: number | null;
}

const none: SessionStart = {
  shown: false,
  since: 0,
  lastAt: null,
  lastInput: null,
  checks: [],
  roomSince: null,
};

/** What is looked at before the first take of a session. */
export const useSessionStart = create<SessionStart>(() => none);
const set = useSessionStart.setState;
const get = useSessionStart.getState;

let room = 0;
whenProjectCloses(() => {
  room++;
  set(none);
});

/** A project was opened: the card is shown where something was recorded in it in an earlier session. */
export async function beginSession(): Promise<void> {
  const { project, sources, readOnly } = useProject.getState();
  if (!project || readOnly) return;
  const checks = await checksOfProject(project.id).catch(() => []);
  if (useProject.getState().project?.id !== project.id) return;
  const moments = [...[...sources.values()].map(({ startedAt }) => startedAt), ...checks.map(({ at }) => at)];
  const now = Date.now();
  const since = sessionSince(now, moments);
  const lastAt = lastBefore(since, moments);
  // Who has asked for the card meanwhile has it.
  const shown = get().shown || (since === now && lastAt !== null);
  set({ ...none, since, lastAt, lastInput: project.input, checks, shown });
}

export const showSessionStart = (shown: boolean) => {
  if (!useProject.getState().readOnly) set({ shown });
};
export const toggleSessionStart = () => showSessionStart(!get().shown);

// Whoever records has seen it.
useTransport.subscribe(({ mode }) => {
  if (mode === 'recording' && get().shown) set({ shown: false });
});
useSoundCheck.subscribe(({ earlier, phase }) => {
  if (phase === 'done' && earlier !== get().checks) set({ checks: earlier });
});

const sameInput = (a: InputChoice | null, b: InputChoice | null) =>
  a !== null && b !== null && a.kind === b.kind && inputName(a) === inputName(b);

/** Whether the input is the one of the session before. */
export function inputAdvice(): Advice & { canOpen: boolean } {
  const { lastInput } = get();
  const { status, choice } = useInput.getState();
  const last = lastInput && inputName(lastInput);
  // A file has to be chosen anew, and somebody far away has to come.
  const canOpen = lastInput?.kind === 'reader' || lastInput?.kind === 'microphone';
  const isOpen = status === 'open' && choice !== null;
  if (isOpen && sameInput(choice, lastInput))
    return { weight: 'fine', text: say`The input of last time: ${inputName(choice)}.`, canOpen: false };
  if (isOpen)
    return last === null
      ? { weight: 'fine', text: say`The input: ${inputName(choice)}.`, canOpen: false }
      : { weight: 'better', text: say`${inputName(choice)}, and last time it was ${last}.`, canOpen };
  if (last === null) return { weight: 'must', text: say`No input yet: choose one at the top.`, canOpen };
  return {
    weight: 'must',
    text: canOpen ? say`Last time it was ${last}.` : say`Last time it was ${last}: choose it at the top.`,
    canOpen,
  };
}

/** Opens the input of the session before. */
export function openLastInput(): void {
  const { lastInput } = get();
  if (useProject.getState().readOnly) return;
  if (!lastInput || !inputAdvice().canOpen)
    return notify('info', say`There is no input of last time that could be opened: choose one at the top.`);
  void chooseInput(lastInput);
}

/** What this session's sound check says against the reference; what to do where there was none. */
export function checkAdvice(): { readonly checkedAt: number | null; readonly said: readonly Advice[] } {
  const { checks, since } = get();
  const { project } = useProject.getState();
  const latest = checks.find(({ at }) => at >= since);
  const reference = checks.find((check) => check.reference && check !== latest) ?? null;
  if (!latest) {
    const text = reference
      ? say`Level and tone were not compared with the reference today.`
      : say`Level and tone were not checked today.`;
    return { checkedAt: null, said: [{ weight: 'better', text }] };
  }
  const profile = profileOf(project?.levels ?? defaultLevelChoice, project?.spec.aimPeakDbfs ?? null);
  return { checkedAt: latest.at, said: sayOfCheck(latest.result, reference?.result ?? null, profile) };
}

/** The latest room tone that was recorded in this session; null where there is none. */
export function toneOfSession(): { readonly levelDbfs: number | null } | null {
  const { since } = get();
  const [latest] = [...useProject.getState().sources.values()]
    .filter(({ role, deleted, startedAt }) => role === 'tone' && !deleted && startedAt >= since)
    .sort((a, b) => b.startedAt - a.startedAt);
  return latest ? { levelDbfs: latest.levelDbfs ?? null } : null;
}

/** Records the room alone; asked for again meanwhile, it is called off. */
export async function recordTone(): Promise<void> {
  const { project, readOnly } = useProject.getState();
  const { choice } = useInput.getState();
  if (get().roomSince !== null) {
    room++;
    return set({ roomSince: null });
  }
  if (!project || readOnly || useTransport.getState().mode !== 'idle') return;
  if (!openedInput() || !choice)
    return notify('info', say`Choose an input first: the room is recorded from it.`);
  const mine = ++room;
  const at = Date.now();
  try {
    const tone = await recordRoom({
      rateHz: rateOfProject(),
      channel: armedNow()[0]?.channel ?? 0,
      projectId: project.id,
      isWanted: () => mine === room,
      begun: () => set({ roomSince: performance.now() / 1000 }),
    });
    if (!tone) return;
    await keepTone(tone, { projectId: project.id, at, input: inputName(choice) });
    if (mine === room) set({ roomSince: null });
  } catch (thrown) {
    if (mine !== room) return;
    set({ roomSince: null });
    notify('error', say`The room was not recorded: ${toParolaError(thrown).message}`, 'booth');
  }
}

async function keepTone(
  { source, frames, levelDbfs }: { source: string; frames: number; levelDbfs: number },
  { projectId, at, input }: { projectId: string; at: number; input: string },
): Promise<void> {
  const known = Number.isFinite(levelDbfs) ? levelDbfs : undefined;
  try {
    await finishSource(source, { state: 'kept', frames, levelDbfs: known });
  } catch (thrown) {
    await removeSource(source).catch(() => undefined);
    throw thrown;
  }
  rememberTone(source, frames, { projectId, at, input, levelDbfs: known });
  if (known === undefined)
    notify(
      'warning',
      say`The room was digital silence: a muted microphone or a noise gate. Turn it off, and record the room again.`,
      'booth',
    );
}
