import { say } from '@/texts/say';
import { contextFrame } from '@/audio/contextFrame';
import { playAt } from '@/audio/playAt';
import { assert, ParolaError } from '@/core/base/errors';
import { longestRoundTripSeconds, loopbackSeconds, loopbackSignal } from '@/core/recording/loopback';
import { readSetting, writeSetting } from '@/storage/settings';
import { removeSource } from '@/storage/sources';
import { within } from '@/core/base/waiting';
import { outputId, startEngine } from '../hearing/engine';
import { openedInput } from './openInputs';
import { armedNow, useInput } from './input';
import { analysisClient } from '../page/jobs';
import { recordStretch } from './recorder';
import { rateOfProject, useProject } from '../project/openProject';

/**
 * From playing to capturing, in frames: measured for this pair of devices, or estimated from what the browser
 * says.
 */
export interface RoundTrip {
  frames: number;
  measured: boolean;
}

function key(): string {
  const { choice } = useInput.getState();
  const input = choice?.kind === 'microphone' ? choice.deviceId : choice?.kind;
  return `roundTrip ${input} ${outputId() || 'default'} ${rateOfProject()}`;
}

export async function roundTrip(): Promise<RoundTrip> {
  // That of a line changes while it is used, and is followed there.
  if (useInput.getState().choice?.kind === 'far')
    return { frames: openedInput()?.estimatedRoundTripFrames ?? 0, measured: false };
  const stored = await readSetting<number>(key());
  if (typeof stored === 'number') return { frames: stored, measured: true };
  return { frames: openedInput()?.estimatedRoundTripFrames ?? 0, measured: false };
}

/** Long enough for the first clicks to be handed to the device. */
const leadSeconds = 0.3;
const searchMs = 15_000;

/**
 * Plays clicks, finds them in the first armed input, and keeps and returns the round trip for this pair of
 * devices. Throws ParolaError `not-found` when the clicks did not come back; a round trip that was known
 * before is kept then.
 */
export async function checkLoopback(): Promise<RoundTrip> {
  const rateHz = rateOfProject();
  const { context, bus } = await startEngine(rateHz);
  const input = openedInput();
  assert(input, 'an input is open');
  input.hear?.(true);
  const atFrame = contextFrame(context, leadSeconds);
  const frames = Math.round((loopbackSeconds + longestRoundTripSeconds) * rateHz);
  const channel = armedNow()[0]?.channel ?? 0;
  const projectId = useProject.getState().project?.id ?? '';
  const stretch = recordStretch({ role: 'check', channel, atFrame, frames, rateHz, projectId });
  try {
    playAt(context, bus, [loopbackSignal(rateHz)], atFrame);
    const take = await stretch.done;
    const captured = { source: stretch.sourceId, from: 0, frames: take.length };
    const found = await within(
      analysisClient.run('loopback', { captured, rateHz }),
      searchMs,
      say`Looking for the clicks took too long. Check again.`,
    );
    if (!found) {
      throw new ParolaError(
        'not-found',
        say`The clicks did not come back. Turn the output up, hold the headphones to the microphone, then check again.`,
      );
    }
    await writeSetting(key(), found.roundTripFrames);
    return { frames: found.roundTripFrames, measured: true };
  } finally {
    input.hear?.(false);
    await removeSource(stretch.sourceId).catch(() => undefined);
  }
}
