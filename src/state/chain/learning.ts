import { say } from '@/texts/say';
import { fitted } from '@/core/chain/builtIn';
import type { ChainStep, StepKind } from '@/core/chain/chain';
import { stepNames } from '@/core/chain/stepText';
import type { LearnedRoom } from '@/workers/chainJobs';
import { findTone } from '../finds/roomTone';
import { chainClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { rateOfProject, sourceLengths } from '../project/openProject';
import { toneLookup } from '../project/tones';
import { usePart } from '../sheet/part';
import { chainOf, putStep, setStep } from './chains';
import { levelsOfVoice } from './chainMeasures';

const noTone = () =>
  notify(
    'info',
    say`There is no room tone to learn from: make a sound check, or select a second in which nobody speaks and choose “Use as room tone” in the Booth.`,
  );

/**
 * What can be told of a voice's room through the steps before one; null where there is no room tone, which
 * is told.
 */
async function roomOf(voice: string, before: readonly ChainStep[]): Promise<LearnedRoom | null> {
  const { id } = usePart.getState();
  const known = () => toneLookup(id)(voice);
  return runShown(say`Listening to the room`, async (options) => {
    if (!known()) await findTone();
    const region = known();
    if (!region) {
      noTone();
      return null;
    }
    const input = { region, before, rateHz: rateOfProject(), sources: sourceLengths() };
    return chainClient.run('learn', input, options);
  });
}

/** Lets a step hear the room alone: noise reduction, the pauses by speech, or where it hums. */
export async function learnFor(voice: string, id: string): Promise<void> {
  const { id: part } = usePart.getState();
  const { steps } = chainOf(usePart.getState().timeline, voice);
  const at = steps.findIndex((step) => step.id === id);
  if (at < 0) return;
  const room = await roomOf(
    voice,
    steps.slice(0, at).filter(({ on }) => on),
  );
  const step = chainOf(usePart.getState().timeline, voice).steps.find((one) => one.id === id);
  if (!room || !step || usePart.getState().id !== part) return;
  const learned = withRoom(step, room);
  if (learned === step) return notify('info', say`Nothing hums in the room tone: the step stays as it is.`);
  setStep(voice, learned, say`${stepNames[step.kind].toLowerCase()}, learned`);
}

function withRoom(step: ChainStep, { profile, roomDb, hum }: LearnedRoom): ChainStep {
  switch (step.kind) {
    case 'room':
      return { ...step, profile };
    case 'pauses':
      return { ...step, by: 'speech', roomDb };
    case 'hum':
      return hum ? { ...step, mainsHz: hum.mainsHz === 60 ? 60 : 50, harmonics: hum.harmonics } : step;
    default:
      return step;
  }
}

const learns: ReadonlySet<StepKind> = new Set<StepKind>(['room', 'hum']);

/** Adds a step with values that suit the voice, as far as it has been measured, and lets it learn. */
export async function addFittedStep(voice: string, kind: StepKind): Promise<void> {
  const levels = levelsOfVoice(voice);
  const plain = putStep(voice, kind);
  if (!plain) return;
  if (levels) {
    const { steps } = fitted({ name: '', note: '', steps: [plain] }, levels.speechDbfs, levels.roomDbfs);
    if (JSON.stringify(steps[0]) !== JSON.stringify(plain))
      setStep(voice, steps[0], say`${stepNames[kind].toLowerCase()}, fitted to the voice`);
  }
  if (learns.has(kind)) await learnFor(voice, plain.id);
}
