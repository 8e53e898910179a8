import { say } from '@/texts/say';
import { contextFrame } from '@/audio/contextFrame';
import { sleep, within } from '@/core/base/waiting';
import type { SoundCheck } from '@/core/recording/soundCheck';
import { removeSource } from '@/storage/sources';
import { startEngine } from '../hearing/engine';
import { analysisClient } from '../page/jobs';
import { openedInput } from './openInputs';
import { recordStretch } from './recorder';

/** The steps of the check, in seconds; together under a minute. */
export const checkSteps = [
  {
    id: 'silent',
    title: say`Be silent`,
    text: say`Sit as you will while you read. These ten seconds are also this session’s room tone.`,
    seconds: 10,
  },
  {
    id: 'normal',
    title: say`Read normally`,
    text: say`Any part of the script, at the distance and in the voice you will use.`,
    seconds: 14,
  },
  {
    id: 'loudest',
    title: say`Read the loudest passage`,
    text: say`As loud as it gets: the shout, the laugh, the big finish.`,
    seconds: 8,
  },
] as const;
export type CheckStep = (typeof checkSteps)[number]['id'];

export const toneSeconds = checkSteps[0].seconds;

const measureMs = 30_000;
/** A short breath between the steps, in which the words on the screen are read. */
const breathMs = 600;

interface CheckPlan {
  readonly rateHz: number;
  readonly channel: number;
  /** Whose the recordings are. */
  readonly projectId: string;
  /** Told before each step; a check that is not wanted any more is called off. */
  isWanted(): boolean;
  step(step: CheckStep | 'measuring'): void;
}

/** A check that was made: the recording of its silence is the room tone, the others are gone. */
export interface Checked {
  readonly result: SoundCheck;
  readonly tone: { readonly source: string; readonly from: number; readonly frames: number };
}

/**
 * Goes through the steps one after another, then measures. Null when it was called off; nothing is kept then.
 * Throws ParolaError when the input goes away, or nothing comes.
 */
export async function recordCheck({
  rateHz,
  channel,
  projectId,
  isWanted,
  step,
}: CheckPlan): Promise<Checked | null> {
  const recorded = new Map<CheckStep, { source: string; frames: number }>();
  let kept = '';
  try {
    const { context } = await startEngine(rateHz);
    for (const { id, seconds } of checkSteps) {
      if (id !== 'silent') await sleep(breathMs);
      if (!isWanted()) return null;
      step(id);
      const atFrame = contextFrame(context, 0.1);
      if (id !== 'silent') openedInput()?.start?.(atFrame);
      const role = id === 'silent' ? 'tone' : 'check';
      const stretch = recordStretch({ role, channel, atFrame, frames: seconds * rateHz, rateHz, projectId });
      recorded.set(id, { source: stretch.sourceId, frames: 0 });
      const take = await stretch.done;
      if (id !== 'silent') openedInput()?.stop?.(contextFrame(context));
      recorded.set(id, { source: stretch.sourceId, frames: take.length });
    }
    if (!isWanted()) return null;
    step('measuring');
    const stretchOf = (id: CheckStep) => ({ source: '', frames: 0, ...recorded.get(id), from: 0 });
    const tone = stretchOf('silent');
    const measured = analysisClient.run('soundCheck', {
      silent: tone,
      normal: stretchOf('normal'),
      loudest: stretchOf('loudest'),
      rateHz,
    });
    const result = await within(measured, measureMs, say`Measuring it took too long. Check again.`);
    if (!isWanted()) return null;
    kept = tone.source;
    return { result, tone };
  } finally {
    for (const { source } of recorded.values())
      if (source !== kept) await removeSource(source).catch(() => undefined);
  }
}

/**
 * Records the room alone, as long as a check does, and says how loud it is (RMS, dBFS). Null when it was
 * called off; nothing is kept then. Throws ParolaError when the input goes away, or nothing comes.
 */
export async function recordRoom({
  rateHz,
  channel,
  projectId,
  isWanted,
  begun,
}: Omit<CheckPlan, 'step'> & { begun(): void }): Promise<{
  source: string;
  frames: number;
  levelDbfs: number;
} | null> {
  const { context } = await startEngine(rateHz);
  const frames = toneSeconds * rateHz;
  const atFrame = contextFrame(context, 0.1);
  begun();
  const stretch = recordStretch({ role: 'tone', channel, atFrame, frames, rateHz, projectId });
  let kept = false;
  try {
    const { length } = await stretch.done;
    if (!isWanted()) return null;
    const silent = { source: stretch.sourceId, from: 0, frames: length };
    const measured = analysisClient.run('roomLevel', { silent, rateHz });
    const levelDbfs = await within(measured, measureMs, say`Measuring it took too long. Record it again.`);
    kept = isWanted();
    return kept ? { source: stretch.sourceId, frames: length, levelDbfs } : null;
  } finally {
    if (!kept) await removeSource(stretch.sourceId).catch(() => undefined);
  }
}
