import { decimal, say } from '@/texts/say';
import type { SourceRecord, TakeOverLine } from '@/storage/schema';
import { currentEngine, type Engine } from '../hearing/engine';
import { rateOfProject } from '../project/openProject';
import { audioClock } from './clock';
import { seats, useFar, type Person } from './far';
import { note } from './log';
import { callerOf } from './session';
import { openFarInput } from './sound';

const seated = (): readonly Person[] => useFar.getState().people.filter(({ seat }) => seat !== null);

/** From playing here to hearing the answer here: the longest of those who are there. */
export function farRoundTripFrames(): number {
  const rate = currentEngine()?.context.sampleRate ?? rateOfProject();
  const there = seated().filter(({ state }) => state === 'open');
  const seconds = Math.max(
    0,
    ...there.map(({ delaySeconds, outDelaySeconds }) => delaySeconds + outDelaySeconds),
  );
  return Math.round(seconds * rate);
}

export const openLines = (engine: Engine) => openFarInput(engine, farRoundTripFrames);

/**
 * What is kept with a take that comes over lines: whose voices are on which channels, and when it began. Null
 * for one in which nobody is far away.
 */
export function overLine(take: string, channels: readonly number[], atFrame: number): TakeOverLine | null {
  const clock = audioClock();
  const context = currentEngine()?.context;
  if (!clock || !context) return null;
  const voices = channels.flatMap((input, channel) => {
    const person = input < seats ? seated().find(({ seat }) => seat === input) : undefined;
    return person ? [{ channel, person: person.key, name: person.name }] : [];
  });
  if (voices.length === 0) return null;
  const delays = seated()
    .filter(({ key }) => voices.some(({ person }) => person === key))
    .map(({ delaySeconds }) => delaySeconds);
  const startsAt = atFrame / context.sampleRate;
  return { take, life: clock.life, startsAt, delaySeconds: Math.max(...delays), voices };
}

type Begun = Pick<SourceRecord, 'id' | 'name' | 'line'>;

/** Lets everybody whose voice is in a take record it where they are. */
export function beginFar({ id, name, line }: Begun): void {
  for (const { person } of line?.voices ?? [])
    callerOf(person)?.want({
      id,
      name: name.slice(0, 200),
      from: (line?.startsAt ?? 0) - (line?.delaySeconds ?? 0),
    });
}

/** The take ends at a frame of the context. */
export function endFar({ id, line }: Begun, frame: number): void {
  const context = currentEngine()?.context;
  if (!line || !context) return;
  for (const { person } of line.voices)
    callerOf(person)?.ended(id, frame / context.sampleRate - line.delaySeconds);
}

/** The take stands on the sheet, or has come to nothing. */
export function closeFar({ id, name, line }: Begun, length: number): void {
  if (!line) return;
  for (const { person, name: who } of line.voices) {
    const caller = callerOf(person);
    if (length === 0) caller?.forget(id);
    else caller?.ended(id, line.startsAt - line.delaySeconds + length / rateOfProject());
    if (length > 0) note(who, say`${name} recorded, ${decimal(length / rateOfProject(), 1)} s.`);
  }
}
