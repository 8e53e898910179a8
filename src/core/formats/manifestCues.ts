import { say } from '../../texts/say';
import { framesOfDay, rateNames, rates } from '../cues/timecode';
import {
  byCueTime,
  cueLimits,
  type Character,
  type Cue,
  type CueHead,
  type CueSheet,
} from '../timeline/cues';
import { limits } from './manifestLimits';
import { given, idOf, list, oneOf, record, text, whole, type ReadingContext } from './manifestValues';

export function readCue(value: unknown, context: ReadingContext): Cue {
  const raw = record(value, context, say`a cue`);
  const from = whole(raw.from, 0, context.mostFrames, context, say`the beginning of a cue`);
  return {
    id: idOf(raw.id, context, say`the id of a cue`),
    number: text(raw.number, limits.nameLetters, context, say`the number of a cue`),
    from,
    to: whole(raw.to, from, context.mostFrames, context, say`the end of a cue`),
    ...(given(raw.character) && { character: idOf(raw.character, context, say`the character of a cue`) }),
    text: text(raw.text, limits.textLetters, context, say`the text of a cue`),
    note: text(raw.note, limits.textLetters, context, say`the note of a cue`),
    ...(raw.done === true && { done: true as const }),
  };
}

function readCharacter(value: unknown, context: ReadingContext): Character {
  const raw = record(value, context, say`a character`);
  return {
    id: idOf(raw.id, context, say`the id of a character`),
    name: text(raw.name, limits.nameLetters, context, say`the name of a character`),
    ...(given(raw.track) && { track: idOf(raw.track, context, say`the track of a character`) }),
  };
}

export function readCueHead(value: unknown, context: ReadingContext): CueHead {
  const raw = record(value, context, say`the cue sheet`);
  const rate = oneOf(raw.rate, rateNames, context, say`the rate of the picture`);
  return {
    characters: list(raw.characters, cueLimits.characters, context, 'character').map((one) =>
      readCharacter(one, context),
    ),
    rate,
    start: whole(raw.start, 0, framesOfDay(rates[rate]) - 1, context, say`where the picture starts`),
  };
}

export function readCueSheet(value: unknown, context: ReadingContext): CueSheet {
  const raw = record(value, context, say`the cue sheet`);
  const cues = list(raw.cues, cueLimits.cues, context, 'cue').map((one) => readCue(one, context));
  return { ...readCueHead(value, context), cues: cues.sort(byCueTime) };
}
