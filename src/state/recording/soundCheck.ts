import { create } from 'zustand';
import { contextFrame } from '@/audio/contextFrame';
import { toParolaError } from '@/core/base/errors';
import { within } from '@/core/base/waiting';
import { adviseOn, adviseToMatch, compareChecks, type Advice } from '@/core/recording/advice';
import { defaultLevelChoice, profileOf } from '@/core/recording/levelProfiles';
import type { SoundCheck } from '@/core/recording/soundCheck';
import { checksOfProject, saveCheck, setReference } from '@/storage/checks';
import { newId } from '@/storage/projects';
import type { SoundCheckRecord } from '@/storage/schema';
import { finishSource, removeSource } from '@/storage/sources';
import { startEngine } from '../hearing/engine';
import { armedNow, inputName, useInput } from './input';
import { openedInput } from './openInputs';
import { analysisClient } from '../page/jobs';
import { notify } from '../page/notices';
import { recordStretch } from './recorder';
import { rateOfProject, rememberSource, useProject } from '../project/openProject';
import { useTransport } from '../hearing/transport';

/** The steps of the check, in seconds; together under a minute. */
export const checkSteps = [
  {
    id: 'silent',
    title: 'Be silent',
    text: 'Sit as you will while you read. These ten seconds are also this session’s room tone.',
    seconds: 10,
  },
  {
    id: 'normal',
    title: 'Read normally',
    text: 'Any part of the script, at the distance and in the voice you will use.',
    seconds: 14,
  },
  {
    id: 'loudest',
    title: 'Read the loudest passage',
    text: 'As loud as it gets: the shout, the laugh, the big finish.',
    seconds: 8,
  },
] as const;
type StepId = (typeof checkSteps)[number]['id'];

interface Check {
  open: boolean;
  phase: 'ready' | StepId | 'measuring' | 'done';
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
const measureMs = 30_000;

export async function openSoundCheck(): Promise<void> {
  const { project } = useProject.getState();
  if (!project || useTransport.getState().mode !== 'idle') return;
  set({ open: true, phase: 'ready', result: null, earlier: await checksOfProject(project.id) });
}

export function closeSoundCheck(): void {
  run++;
  set({ open: false, phase: 'ready' });
}

const wait = (seconds: number) => new Promise((resolve) => setTimeout(resolve, seconds * 1000));

/**
 * Goes through the steps one after another, then measures. Closing the dialog calls it off; nothing is kept
 * then.
 */
export async function runSoundCheck(): Promise<void> {
  const mine = ++run;
  const { project } = useProject.getState();
  const { choice } = useInput.getState();
  const rateHz = rateOfProject();
  const recorded = new Map<StepId, { sourceId: string; frames: number }>();
  try {
    const { context } = await startEngine(rateHz);
    if (!project || !openedInput() || !choice) return;
    const channel = armedNow()[0]?.channel ?? 0;
    for (const { id, seconds } of checkSteps) {
      // A short breath between the steps, in which the words on the screen are read.
      if (id !== 'silent') await wait(0.6);
      if (mine !== run) break;
      set({ phase: id, since: performance.now() / 1000 });
      const atFrame = contextFrame(context, 0.1);
      if (id !== 'silent') openedInput()?.start?.(atFrame);
      const stretch = recordStretch(id === 'silent' ? 'tone' : 'check', channel, atFrame, seconds * rateHz);
      recorded.set(id, { sourceId: stretch.sourceId, frames: 0 });
      const take = await stretch.done;
      if (id !== 'silent') openedInput()?.stop?.(contextFrame(context));
      recorded.set(id, { sourceId: stretch.sourceId, frames: take.length });
    }
    if (mine !== run) return await discard(recorded, true);
    set({ phase: 'measuring' });
    const stretchOf = (id: StepId) => ({
      source: recorded.get(id)?.sourceId ?? '',
      from: 0,
      frames: recorded.get(id)?.frames ?? 0,
    });
    const result = await within(
      analysisClient.run('soundCheck', {
        silent: stretchOf('silent'),
        normal: stretchOf('normal'),
        loudest: stretchOf('loudest'),
        rateHz,
      }),
      measureMs,
      'Measuring it took too long. Check again.',
    );
    if (mine !== run) return await discard(recorded, true);
    const tone = stretchOf('silent');
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
    rememberTone(tone.source, tone.frames, record);
    await discard(recorded, false);
    set({ phase: 'done', result, earlier: [record, ...earlier] });
  } catch (thrown) {
    await discard(recorded, true);
    set({ phase: 'ready' });
    notify('error', `The sound check stopped: ${toParolaError(thrown).message}`);
  }
}

function rememberTone(id: string, frames: number, { projectId, at, input, result }: SoundCheckRecord) {
  rememberSource({
    id,
    projectIds: [projectId],
    partId: '',
    trackId: '',
    take: 0,
    name: 'Room tone',
    rateHz: rateOfProject(),
    channels: 1,
    state: 'kept',
    frames,
    handleFrames: 0,
    startedAt: at,
    overrunFrames: 0,
    input,
    role: 'tone',
    levelDbfs: Number.isFinite(result.roomDbfs) ? result.roomDbfs : undefined,
  });
}

/** Recordings of a check are not takes: only the room tone of a finished one stays. */
async function discard(recorded: ReadonlyMap<StepId, { sourceId: string }>, all: boolean) {
  for (const [id, { sourceId }] of recorded) {
    if (all || id !== 'silent') await removeSource(sourceId).catch(() => undefined);
  }
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
