import { seededRandom } from '../base/random';
import * as edits from './edits';
import * as takes from './takes';
import { apply, difference, inverse, isEmpty, type Difference } from './history';
import type { Range } from './range';
import {
  audioPiece,
  expectCanonical,
  framesOfPiece,
  modelOf,
  textOf,
  type Model,
} from '../testing/naiveTimeline';
import { heardTracks } from './heard';
import { clockOf, emptyTimeline, sheetFramesOf, type Mark, type Timeline } from './timeline';
import { loadTimeline, storeTimeline } from './stored';
import { seeds } from '../testing/seeds';

interface Case {
  /** The same edit on both. */
  edit: (timeline: Timeline) => Timeline;
  model: (model: Model) => Model;
}

/** One random edit and what it does to the naive model. */
function randomCase(timeline: Timeline, random: () => number, number: number): Case {
  const end = sheetFramesOf(timeline);
  const a = Math.floor(random() * (end + 1));
  const b = Math.floor(random() * (end + 1));
  const range = { from: Math.min(a, b), to: Math.max(a, b) };
  const setStruck = (struck: boolean) => (model: Model) => ({
    ...model,
    struck: model.struck.map((was, i) => (i >= range.from && i < range.to ? struck : was)),
  });
  switch (Math.floor(random() * 6)) {
    case 0:
      return { edit: (before) => edits.stet(before, range), model: setStruck(false) };
    case 1:
      return { edit: (before) => edits.closeUp(before, range), model: (model) => modelCloseUp(model, range) };
    case 2: {
      const length = 1 + Math.floor(random() * 40);
      const piece = audioPiece(`take-${number}`, Math.floor(random() * 10), length);
      return {
        edit: (before) => takes.appendRecording(before, new Map([['track-1', [piece]]])),
        model: (model) => ({
          ...model,
          tracks: model.tracks.map((frames, index) => [
            ...frames,
            ...framesOfPiece(index === 0 ? piece : { kind: 'silence', length }),
          ]),
          struck: [...model.struck, ...Array<boolean>(length).fill(false)],
        }),
      };
    }
    case 3: {
      const kind = (['flub', 'note', 'part'] as const)[Math.floor(random() * 3)];
      const mark: Mark = {
        id: `mark-${number}`,
        kind,
        at: range.from,
        length: range.to - range.from,
        name: 'M',
      };
      return {
        edit: (before) => edits.addMark(before, mark),
        model: (model) => ({ ...model, marks: [...model.marks, mark] }),
      };
    }
    default:
      return { edit: (before) => edits.strike(before, range), model: setStruck(true) };
  }
}

function modelCloseUp(model: Model, range: Range): Model {
  const gone = (i: number) => i >= range.from && i < range.to && model.struck[i];
  const before = (frame: number) => model.tracks[0].slice(0, frame).filter((_, i) => !gone(i)).length;
  const marks = model.marks
    .filter((mark) => !(mark.kind === 'flub' && allGone(mark)))
    .map((mark) => ({
      ...mark,
      at: before(mark.at),
      length: before(mark.at + mark.length) - before(mark.at),
    }));
  function allGone({ at, length }: Mark) {
    const last = Math.max(at, at + length - 1);
    for (let i = at; i <= last; i++) if (i >= model.tracks[0].length || !gone(i)) return false;
    return true;
  }
  return {
    tracks: model.tracks.map((frames) => frames.filter((_, i) => !gone(i))),
    struck: model.struck.filter((_, i) => !gone(i)),
    marks,
  };
}

const sorted = (marks: readonly Mark[]) => [...marks].sort((x, y) => (x.id < y.id ? -1 : 1));

/** Sheet and heard time of a part, and what is heard of each of its tracks, frame by frame. */
function expectMapping(timeline: Timeline, model: Model) {
  const clock = clockOf(timeline);
  const wrong: string[] = [];
  let heard = 0;
  model.struck.forEach((struck, sheet) => {
    if (clock.sheetToHeard(sheet) !== heard) wrong.push(`sheet ${sheet}`);
    if (clock.isStruck(sheet) !== struck) wrong.push(`struck ${sheet}`);
    if (struck) return;
    if (clock.heardToSheet(heard) !== sheet) wrong.push(`heard ${heard}`);
    heard++;
  });
  expect(wrong).toEqual([]);
  expect(clock.heardFrames).toBe(heard);
  expect(clock.sheetToHeard(model.struck.length)).toBe(heard);
  expect(clock.heardToSheet(heard)).toBe(model.struck.length);
  heardTracks(timeline).forEach(({ table }, track) => {
    const sounding = model.tracks[track].filter((_, sheet) => !model.struck[sheet]);
    expect(table.pieces.flatMap(framesOfPiece)).toEqual(sounding);
    expectCanonical(table);
  });
}

describe.each(seeds(60))('random edits, seed %d', (seed) => {
  test('equal the naive model; undo and redo give back the identical states', () => {
    const random = seededRandom(seed);
    let timeline = takes.appendRecording(
      emptyTimeline(['One', 'Two']),
      new Map([['track-1', [audioPiece('first', 5, 50)]]]),
    );
    let model = modelOf(timeline);
    const states = [timeline];
    const steps: Difference[] = [];
    for (let number = 0; number < 30; number++) {
      const { edit, model: change } = randomCase(timeline, random, number);
      const after = edit(timeline);
      model = change(model);
      expect(textOf(modelOf(after))).toEqual(textOf(model));
      expect(sorted(after.marks)).toEqual(sorted(model.marks));
      after.tracks.forEach((track) => expectCanonical(track.table));
      expectMapping(after, model);
      const step = difference(timeline, after);
      if (after === timeline) expect(isEmpty(step)).toBe(true);
      // Steps are stored as JSON-like data.
      steps.push(JSON.parse(JSON.stringify(step)) as Difference);
      states.push(after);
      timeline = after;
    }
    for (let i = steps.length - 1; i >= 0; i--) {
      timeline = apply(timeline, inverse(steps[i]));
      expect(storeTimeline(timeline)).toEqual(storeTimeline(states[i]));
    }
    for (let i = 0; i < steps.length; i++) {
      timeline = apply(timeline, steps[i]);
      expect(storeTimeline(timeline)).toEqual(storeTimeline(states[i + 1]));
    }
    expect(loadTimeline(storeTimeline(timeline))).toEqual(timeline);
  });
});

describe('edits', () => {
  const start = takes.appendRecording(
    emptyTimeline(['Voice']),
    new Map([['track-1', [audioPiece('a', 0, 100)]]]),
  );

  test('striking twice, or nothing, changes nothing and is the same timeline', () => {
    const once = edits.strike(start, { from: 10, to: 20 });
    expect(edits.strike(once, { from: 12, to: 18 })).toBe(once);
    expect(edits.stet(start, { from: 0, to: 100 })).toBe(start);
    expect(edits.strike(start, { from: 30, to: 30 })).toBe(start);
    expect(edits.closeUp(start, { from: 0, to: 100 })).toBe(start);
  });

  test('an edit leaves the timeline it came from as it was', () => {
    const before = JSON.stringify(storeTimeline(start));
    edits.closeUp(edits.strike(start, { from: 10, to: 20 }), { from: 0, to: 100 });
    expect(JSON.stringify(storeTimeline(start))).toBe(before);
  });

  test('a range outside the sheet is refused', () => {
    expect(() => edits.strike(start, { from: 90, to: 101 })).toThrow(RangeError);
    expect(() => edits.strike(start, { from: -1, to: 5 })).toThrow(RangeError);
  });

  test('renaming and removing a mark', () => {
    const marked = edits.addMark(start, { id: 'm', kind: 'note', at: 5, length: 0, name: 'Note' });
    expect(edits.renameMark(marked, 'm', 'Breath').marks[0].name).toBe('Breath');
    expect(edits.removeMark(marked, 'm').marks).toEqual([]);
  });
});
