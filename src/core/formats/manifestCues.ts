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
  const raw = record(value, context, 'a cue');
  const from = whole(raw.from, 0, context.mostFrames, context, 'the beginning of a cue');
  return {
    id: idOf(raw.id, context, 'the id of a cue'),
    number: text(raw.number, limits.nameLetters, context, 'the number of a cue'),
    from,
    to: whole(raw.to, from, context.mostFrames, context, 'the end of a cue'),
    ...(given(raw.character) && { character: idOf(raw.character, context, 'the character of a cue') }),
    text: text(raw.text, limits.textLetters, context, 'the text of a cue'),
    note: text(raw.note, limits.textLetters, context, 'the note of a cue'),
    ...(raw.done === true && { done: true as const }),
  };
}

function readCharacter(value: unknown, context: ReadingContext): Character {
  const raw = record(value, context, 'a character');
  return {
    id: idOf(raw.id, context, 'the id of a character'),
    name: text(raw.name, limits.nameLetters, context, 'the name of a character'),
    ...(given(raw.track) && { track: idOf(raw.track, context, 'the track of a character') }),
  };
}

export function readCueHead(value: unknown, context: ReadingContext): CueHead {
  const raw = record(value, context, 'the cue sheet');
  const rate = oneOf(raw.rate, rateNames, context, 'the rate of the picture');
  return {
    characters: list(raw.characters, cueLimits.characters, context, 'character').map((one) =>
      readCharacter(one, context),
    ),
    rate,
    start: whole(raw.start, 0, framesOfDay(rates[rate]) - 1, context, 'where the picture starts'),
  };
}

export function readCueSheet(value: unknown, context: ReadingContext): CueSheet {
  const raw = record(value, context, 'the cue sheet');
  const cues = list(raw.cues, cueLimits.cues, context, 'cue').map((one) => readCue(one, context));
  return { ...readCueHead(value, context), cues: cues.sort(byCueTime) };
}
