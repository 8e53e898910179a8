import { say } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { adviseOn, adviseToMatch, compareChecks, type Advice } from '@/core/recording/advice';
import { defaultLevelChoice, profileOf } from '@/core/recording/levelProfiles';
import type { SoundCheck } from '@/core/recording/soundCheck';
import { checksOfProject, saveCheck, setReference } from '@/storage/checks';
import { newId } from '@/storage/projects';
import type { SoundCheckRecord } from '@/storage/schema';
import { finishSource, removeSource } from '@/storage/sources';
import { armedNow, inputName, useInput } from './input';
import { openedInput } from './openInputs';
import { notify } from '../page/notices';
import { recordCheck, type Checked, type CheckStep } from './checking';
import { rateOfProject, rememberSource, useProject } from '../project/openProject';
import { useTransport } from '../hearing/transport';

interface Check {
  open: boolean;
  phase: 'ready' | CheckStep | 'measuring' | 'done';
  /** When the running step began, seconds of the page's clock. */
  since: number;
  result: SoundCheck | null;
  /** Checks of this project, the newest first. */
  earlier: SoundCheckRecord[];
}

export const useSoundCheck = create<Check>(() => ({
  open: false,
  phase: 'ready',
  since: 0,
  result: null,
  earlier: [],
}));

const set = useSoundCheck.setState;
const get = useSoundCheck.getState;

let run = 0;

export async function openSoundCheck(): Promise<void> {
  const { project } = useProject.getState();
  if (!project || useTransport.getState().mode !== 'idle') return;
  set({ open: true, phase: 'ready', result: null, earlier: await checksOfProject(project.id) });
}

export function closeSoundCheck(): void {
  run++;
  set({ open: false, phase: 'ready' });
}

/**
 * Goes through the steps one after another, then measures. Closing the dialog calls it off; nothing is kept
 * then.
 */
export async function runSoundCheck(): Promise<void> {
  const mine = ++run;
  const { project } = useProject.getState();
  const { choice } = useInput.getState();
  if (!project || !openedInput() || !choice) return;
  let checked: Checked | null = null;
  try {
    checked = await recordCheck({
      rateHz: rateOfProject(),
      channel: armedNow()[0]?.channel ?? 0,
      projectId: project.id,
      isWanted: () => mine === run,
      step: (phase) => set({ phase, since: performance.now() / 1000 }),
    });
    if (!checked) return;
    const { result, tone } = checked;
    const levelDbfs = Number.isFinite(result.roomDbfs) ? result.roomDbfs : undefined;
    await finishSource(tone.source, { state: 'kept', frames: tone.frames, levelDbfs });
    const { earlier } = get();
    const record: SoundCheckRecord = {
      id: newId(),
      projectId: project.id,
      at: Date.now(),
      input: inputName(choice),
      result,
      toneSource: tone.source,
      reference: earlier.length === 0,
    };
    await saveCheck(record);
    rememberTone(tone.source, tone.frames, { ...record, levelDbfs });
    set({ phase: 'done', result, earlier: [record, ...earlier] });
  } catch (thrown) {
    if (checked) await removeSource(checked.tone.source).catch(() => undefined);
    set({ phase: 'ready' });
    notify('error', say`The sound check stopped: ${toParolaError(thrown).message}`, 'booth');
  }
}

/** A recording of the room alone, as this project's sources tell it. */
export function rememberTone(
  id: string,
  frames: number,
  { projectId, at, input, levelDbfs }: { projectId: string; at: number; input: string; levelDbfs?: number },
) {
  rememberSource({
    id,
    projectIds: [projectId],
    partId: '',
    trackId: '',
    take: 0,
    name: say`Room tone`,
    rateHz: rateOfProject(),
    channels: 1,
    state: 'kept',
    frames,
    handleFrames: 0,
    startedAt: at,
    overrunFrames: 0,
    input,
    role: 'tone',
    levelDbfs,
  });
}

/** What to do, by the level profile that is chosen. */
export function adviceFor(result: SoundCheck): Advice[] {
  const { project } = useProject.getState();
  const profile = profileOf(project?.levels ?? defaultLevelChoice, project?.spec.aimPeakDbfs ?? null);
  return adviseOn(result, profile);
}

/** The session later ones are compared with: the one the user chose, at first the first one. */
export const referenceOf = (earlier: readonly SoundCheckRecord[], result: SoundCheck) =>
  earlier.find((record) => record.reference && record.result !== result) ?? null;

export const matchAdvice = (result: SoundCheck, reference: SoundCheckRecord): Advice[] =>
  adviseToMatch(compareChecks(result, reference.result));

/** Makes a check the one that later sessions are compared with. */
export async function makeReference(id: string): Promise<void> {
  const { project } = useProject.getState();
  if (!project) return;
  await setReference(project.id, id);
  set({ earlier: await checksOfProject(project.id) });
}
