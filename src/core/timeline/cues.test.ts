import { seededRandom } from '../base/random';
import { audioPiece } from '../testing/naiveTimeline';
import { seeds } from '../testing/seeds';
import {
  addCharacters,
  addCues,
  changeCharacter,
  changeCues,
  characterNamed,
  cueSheetOf,
  joinCues,
  nextNumber,
  removeCharacter,
  removeCues,
  renumberCues,
  setCueTime,
  splitCue,
} from './cueEdits';
import type { Cue } from './cues';
import { cueProgress, cueStates, nextUndone, overlappingCues } from './cueState';
import { insertTime, removeTime } from './edits';
import { apply, difference, inverse, isEmpty } from './history';
import { timelineOfRange } from './passages';
import { PieceTable, silence } from './pieces';
import { loadTimeline, storeTimeline } from './stored';
import { changeTime, TimeChange } from './timeChange';
import { emptyTimeline, type Timeline } from './timeline';

const cue = (id: string, from: number, to: number, more: Partial<Cue> = {}): Cue => ({
  ...{ id, number: id, from, to, text: `Line ${id}`, note: '' },
  ...more,
});
const only = (...ids: string[]) => new Set(ids);
const cuesOf = (timeline: Timeline) => cueSheetOf(timeline).cues;
const placesOf = (timeline: Timeline) => cuesOf(timeline).map(({ id, from, to }) => [id, from, to]);

/** Ten thousand frames; the first track has audio from 1000 to 3000. */
function sheet(...cues: Cue[]): Timeline {
  const bare = emptyTimeline(['One', 'Two']);
  const [first, second] = bare.tracks;
  const pieces = [silence(1000), audioPiece('a', 0, 2000), silence(7000)];
  const tracks = [
    { ...first, table: PieceTable.of(pieces) },
    { ...second, table: PieceTable.of([silence(10_000)]) },
  ];
  return addCues({ ...bare, tracks }, cues);
}

test('cues stand in order of time, and at the same time in that of their numbers as people count', () => {
  const timeline = sheet(cue('10', 500, 600), cue('9', 500, 600), cue('2', 900, 950), cue('1', 100, 200));
  expect(cuesOf(timeline).map(({ id }) => id)).toEqual(['1', '9', '10', '2']);
  const moved = changeCues(timeline, only('1'), () => ({ from: 950, to: 990 }));
  expect(cuesOf(moved).map(({ id }) => id)).toEqual(['9', '10', '2', '1']);
  // An end before the beginning is none.
  expect(cuesOf(changeCues(timeline, only('2'), () => ({ to: 0 }))).at(-1)?.to).toBe(900);
});

test('a cue goes with its passage, and stays at the joint where that is taken out', () => {
  const timeline = sheet(cue('1', 100, 300), cue('2', 400, 600), cue('3', 700, 900));
  expect(placesOf(insertTime(timeline, 400, 50))).toEqual([
    ['1', 100, 300],
    ['2', 450, 650],
    ['3', 750, 950],
  ]);
  expect(placesOf(removeTime(timeline, { from: 350, to: 650 }))).toEqual([
    ['1', 100, 300],
    ['2', 350, 350],
    ['3', 400, 600],
  ]);
  const slid = changeTime(timeline, TimeChange.slide({ from: 650, to: 950 }, -300, 10_000));
  expect(placesOf(slid)[2]).toEqual(['3', 400, 600]);
});

test('under random edits no cue is lost, none gets a negative length, and every step is undone to the bit', () => {
  for (const seed of seeds(30)) {
    const random = seededRandom(seed);
    const pick = (most: number) => Math.floor(random() * most);
    const cues = Array.from({ length: 12 }, (_, i) => cue(String(i), 700 * i, 700 * i + 1 + pick(900)));
    let timeline = addCharacters(sheet(...cues), ['Ada', 'Ben'], () => `c${random()}`);
    for (let turn = 0; turn < 25; turn++) {
      const before = timeline;
      const { characters } = cueSheetOf(timeline);
      const some = cuesOf(timeline)[pick(cuesOf(timeline).length)];
      const length = timeline.tracks[0].table.frames;
      const count = cuesOf(timeline).length;
      const edits: (() => [Timeline, number])[] = [
        () => [insertTime(timeline, pick(length), 1 + pick(500)), count],
        () => {
          const from = pick(Math.max(1, length - 200));
          return [
            removeTime(timeline, { from, to: from + 1 + pick(Math.min(199, length - from - 1)) }),
            count,
          ];
        },
        () => {
          const at = some.from + pick(some.to - some.from + 1);
          const inside = at > some.from && at < some.to;
          return [splitCue(timeline, some.id, at, `n${seed}-${turn}`), count + (inside ? 1 : 0)];
        },
        () => {
          const other = cuesOf(timeline)[pick(count)];
          return [joinCues(timeline, only(some.id, other.id)), other === some ? count : count - 1];
        },
        () => [
          changeCues(timeline, only(some.id), () => ({ character: characters[pick(2)].id, done: true })),
          count,
        ],
        () => [setCueTime(timeline, { rate: '29.97 drop', start: pick(1000) }), count],
        () => [renumberCues(timeline), count],
      ];
      const [after, left] = edits[pick(edits.length)]();
      expect(cuesOf(after)).toHaveLength(left);
      for (const [index, { from, to }] of cuesOf(after).entries()) {
        expect(to).toBeGreaterThanOrEqual(from);
        if (index > 0) expect(from).toBeGreaterThanOrEqual(cuesOf(after)[index - 1].from);
      }
      const step = structuredClone(difference(before, after));
      expect(apply(before, step).cueSheet).toEqual(after.cueSheet);
      expect(apply(after, inverse(step)).cueSheet).toEqual(before.cueSheet);
      timeline = after;
    }
  }
});

test('a cue sheet is stored, comes and goes as a step, and is no step where nothing has changed', () => {
  const none = sheet();
  const with1 = addCharacters(sheet(cue('1', 0, 10)), ['Ada'], () => 'ada');
  expect(none.cueSheet).toBeUndefined();
  expect(loadTimeline(structuredClone(storeTimeline(with1))).cueSheet).toEqual(with1.cueSheet);
  const step = difference(none, with1);
  expect(isEmpty(step)).toBe(false);
  expect(apply(none, step).cueSheet).toEqual(with1.cueSheet);
  expect(apply(with1, inverse(step)).cueSheet).toBeUndefined();
  expect(isEmpty(difference(with1, structuredClone(with1)))).toBe(true);
});

describe('split and joined', () => {
  const spoken = { text: 'The night the boat came back, I counted to a hundred.', note: 'slow' };

  test('a cue is cut between words, and the second half has a letter', () => {
    const timeline = splitCue(sheet(cue('5', 1000, 2000, { ...spoken, done: true })), '5', 1500, 'new');
    const [first, second] = cuesOf(timeline);
    expect(first).toMatchObject({ number: '5', from: 1000, to: 1500, note: 'slow' });
    expect(second).toMatchObject({ id: 'new', number: '5a', from: 1500, to: 2000, note: '' });
    expect(`${first.text} ${second.text}`).toBe(spoken.text);
    expect(Math.abs(first.text.length - spoken.text.length / 2)).toBeLessThan(6);
    // What was done is not done any more, and a second cut takes the next letter.
    expect([first.done, second.done]).toEqual([undefined, undefined]);
    expect(cuesOf(splitCue(timeline, '5', 1200, 'more')).map(({ number }) => number)).toEqual([
      '5',
      '5b',
      '5a',
    ]);
    expect(splitCue(timeline, '5', 1000, 'no')).toBe(timeline);
  });

  test('joined again it is what it was', () => {
    const whole = sheet(cue('5', 1000, 2000, spoken));
    const joined = joinCues(splitCue(whole, '5', 1500, 'new'), only('5', 'new'));
    expect(cuesOf(joined)).toEqual(cuesOf(whole));
    expect(joinCues(whole, only('5'))).toBe(whole);
  });
});

describe('characters', () => {
  const ids = () => {
    let count = 0;
    return () => `c${++count}`;
  };

  test('come once, however they are written, and have a track of their own where that is wanted', () => {
    const timeline = addCharacters(sheet(), ['Old keeper', ' old KEEPER ', '', 'Young keeper'], ids());
    expect(cueSheetOf(timeline).characters.map(({ name }) => name)).toEqual(['Old keeper', 'Young keeper']);
    expect(characterNamed(cueSheetOf(timeline), 'OLD keeper')?.id).toBe('c1');
    const own = changeCharacter(timeline, 'c1', { track: 'track-2', name: 'Keeper' });
    expect(cueSheetOf(own).characters[0]).toEqual({ id: 'c1', name: 'Keeper', track: 'track-2' });
    expect(cueSheetOf(changeCharacter(own, 'c1', { track: null })).characters[0]).not.toHaveProperty('track');
  });

  test('where one goes, the cues stay', () => {
    const timeline = changeCues(addCharacters(sheet(cue('1', 0, 10)), ['Ada'], ids()), only('1'), () => ({
      character: 'c1',
    }));
    const without = removeCharacter(timeline, 'c1');
    expect(cueSheetOf(without)).toMatchObject({ characters: [], cues: [{ id: '1' }] });
    expect(cuesOf(without)[0]).not.toHaveProperty('character');
  });
});

test('a cue is recorded where there is audio on its character’s track, and done when that is said', () => {
  let timeline = sheet(
    cue('1', 1500, 2000),
    cue('2', 2990, 4000),
    cue('3', 5000, 5500),
    cue('4', 1000, 1100, { done: true }),
  );
  const states = () => Object.fromEntries(cueStates(timeline));
  // Ten of a thousand frames are not a reading.
  expect(states()).toEqual({ '1': 'recorded', '2': 'toDo', '3': 'toDo', '4': 'done' });
  timeline = changeCharacter(
    addCharacters(timeline, ['Ben'], () => 'ben'),
    'ben',
    { track: 'track-2' },
  );
  timeline = changeCues(timeline, only('1'), () => ({ character: 'ben' }));
  expect(states()['1']).toBe('toDo');
  // A track that is gone is nobody's.
  timeline = changeCharacter(timeline, 'ben', { track: 'gone' });
  expect(states()['1']).toBe('recorded');
});

test('how far it is: in all, by character, in frames; and what is next', () => {
  let timeline = addCharacters(
    sheet(cue('1', 0, 100, { done: true }), cue('2', 200, 500), cue('3', 600, 700)),
    ['Ada', 'Ben', 'Nobody'],
    (() => {
      let count = 0;
      return () => `c${++count}`;
    })(),
  );
  timeline = changeCues(timeline, only('1', '2'), () => ({ character: 'c1' }));
  timeline = changeCues(timeline, only('3'), () => ({ character: 'c2' }));
  const { all, characters } = cueProgress(timeline);
  expect(all).toEqual({ done: 1, all: 3, doneFrames: 100, frames: 500 });
  expect([...characters]).toEqual([
    ['c1', { done: 1, all: 2, doneFrames: 100, frames: 400 }],
    ['c2', { done: 0, all: 1, doneFrames: 0, frames: 100 }],
  ]);
  expect(nextUndone(timeline, 0, null)?.id).toBe('2');
  expect(nextUndone(timeline, 0, '2')?.id).toBe('3');
  expect(nextUndone(timeline, 0, '3')?.id).toBe('2');
  expect(
    nextUndone(
      changeCues(timeline, only('2', '3'), () => ({ done: true })),
      0,
      null,
    ),
  ).toBeNull();
  expect(nextNumber(cuesOf(timeline))).toBe(4);
  expect(cuesOf(removeCues(timeline, only('1', '2')))).toHaveLength(1);
});

test('cues of one character that run into each other are told, those of two are not', () => {
  const cues = [
    cue('1', 0, 500),
    cue('2', 100, 200),
    cue('3', 400, 450, { character: 'x' }),
    cue('4', 450, 600),
  ];
  expect(overlappingCues(cues).map(({ cue: a, into }) => [a.id, into.id])).toEqual([
    ['1', '2'],
    ['1', '4'],
  ]);
});

test('a passage that becomes a part takes its cues along', () => {
  const timeline = sheet(cue('1', 100, 300), cue('2', 1400, 1600), cue('3', 1900, 2500));
  expect(placesOf(timelineOfRange(timeline, { from: 1000, to: 2000 }))).toEqual([['2', 400, 600]]);
});
