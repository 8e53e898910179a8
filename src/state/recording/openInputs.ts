import { say } from '@/texts/say';
import { Capture } from '@/audio/capture';
import { openMicrophone, type OpenInput } from '@/audio/inputs';
import { openFileInput, openPracticeReader } from '@/audio/simulatedInput';
import { cancelled, ParolaError } from '@/core/base/errors';
import { mainInput } from '@/core/recording/routing';
import { RingLevels } from '@/core/base/ring';
import { within } from '@/core/base/waiting';
import type { InputChoice } from '@/storage/schema';
import { openSession } from '../far/session';
import { openLines } from '../far/takes';
import { currentEngine, startEngine, type Engine } from '../hearing/engine';
import { attachRing, detachRing } from './recorder';

/** An input that is open, with what captures it. One of them today, `main`; later there will be several. */
interface Opened {
  readonly input: OpenInput;
  readonly capture: Capture;
  monitoring: boolean;
}

const inputs = new Map<string, Opened>();
/** The choice that was made last for each input: what an earlier one opens comes too late. */
const wanted = new Map<string, symbol>();

export const openedInput = (id = mainInput): OpenInput | null => inputs.get(id)?.input ?? null;

/** The browser may be asking the user; whoever has not answered by then can choose again. */
const answerMs = 60_000;

async function openChosen(
  { context, bus }: Engine,
  choice: InputChoice,
  file: File | null,
): Promise<{ input: OpenInput; choice: InputChoice }> {
  switch (choice.kind) {
    case 'reader': {
      const { script = 'narration', delayFrames = 0, hearsOutput = false } = choice;
      return { input: await openPracticeReader(context, bus, { script, delayFrames, hearsOutput }), choice };
    }
    case 'file':
      if (!file)
        throw new ParolaError(
          'not-found',
          say`Choose the file “${choice.name}” again: a browser does not keep it.`,
        );
      return { input: await openFileInput(context, bus, file), choice };
    case 'far':
      await openSession();
      return { input: openLines(await startEngine(context.sampleRate)), choice };
    case 'microphone': {
      const { input, deviceId, label } = await openMicrophone(context, choice.deviceId);
      return { input, choice: { kind: 'microphone', deviceId, label } };
    }
  }
}

/**
 * Opens a choice as an input, in place of what it was before. Resolves to it and to the choice with the
 * device's real name; rejects with `cancelled` when it has been closed or chosen anew meanwhile.
 */
export async function openInput(
  id: string,
  choice: InputChoice,
  rateHz: number,
  file: File | null,
  onLost: () => void,
): Promise<{ input: OpenInput; choice: InputChoice }> {
  closeInput(id);
  const mine = Symbol(id);
  wanted.set(id, mine);
  const engine = await startEngine(rateHz);
  const opening = openChosen(engine, choice, file);
  const opened = await within(
    opening,
    answerMs,
    say`The browser has not said whether this input may be used. Choose it again, and answer its question.`,
  ).catch((error: unknown) => {
    // What comes too late is not left open.
    opening.then(({ input }) => input.close()).catch(() => undefined);
    throw error;
  });
  const { input } = opened;
  if (wanted.get(id) !== mine) {
    input.close();
    throw cancelled();
  }
  const capture = Capture.create(engine.context, input.channels);
  input.node.connect(capture.node);
  inputs.set(id, { input, capture, monitoring: false });
  attachRing(id, capture.ring);
  const lost = () => {
    if (inputs.get(id)?.input === input) onLost();
  };
  input.onLost(lost);
  capture.onLost(lost);
  return opened;
}

/** Lets go of an input. What is being recorded from it ends with what has been captured. */
export function closeInput(id: string): void {
  wanted.delete(id);
  const opened = inputs.get(id);
  if (!opened) return;
  inputs.delete(id);
  detachRing(id);
  opened.input.close();
  opened.capture.close();
}

export function closeInputs(): void {
  for (const id of [...wanted.keys()]) closeInput(id);
}

/** An input's levels on one of its channels, for a level column; null while it is not open. */
export function levels(channel: number, id = mainInput): RingLevels | null {
  const capture = inputs.get(id)?.capture;
  return capture ? new RingLevels(capture.ring, Math.min(channel, capture.ring.channels - 1)) : null;
}

/**
 * Lets the user hear an input through the software, or not; it never reaches what is played into a simulated
 * input.
 */
export function setMonitoring(on: boolean, id = mainInput): void {
  const opened = inputs.get(id);
  const engine = currentEngine();
  if (!opened || !engine || opened.monitoring === on) return;
  if (on) opened.input.node.connect(engine.context.destination);
  else opened.input.node.disconnect(engine.context.destination);
  opened.monitoring = on;
}
