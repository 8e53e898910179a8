import { seededRandom } from '../base/random';
import {
  audioPiece,
  expectCanonical,
  framesOfPiece,
  modelOf,
  textOf,
  type Model,
} from '../testing/naiveTimeline';
import { addMark, closeUp, insertTime, removeTime, stet, strike } from './edits';
import type { Range } from './range';
import { apply, difference, inverse, type Difference } from './history';
import * as joints from './joints';
import { PieceTable, type Piece, type ToneRegion } from './pieces';
import * as passages from './passages';
import * as room from './roomEdits';
import { appendRecording } from './takes';
import { heardTracks } from './heard';
import { clockOf, emptyTimeline, heardFramesOf, sheetFramesOf, type Timeline } from './timeline';
import { storeTimeline } from './stored';
import { seeds } from '../testing/seeds';

const region: ToneRegion = { source: 'room', channel: 0, start: 100, end: 900 };
const toneOf = (id: string) => (id === 'track-1' ? region : null);
const newIds = () => {
  let next = 0;
  return () => `pasted-${next++}`;
};

const gap = (frames: number) => Array<string>(frames).fill('silence');
const louder = (frame: string, gainDb: number): string => {
  if (!/:/.test(frame)) return frame;
  const parts = frame.split(':');
  parts[3] = String(Number(parts[3]) + gainDb);
  return parts.join(':');
};
const each = (model: Model, change: (frames: string[], track: number) => string[]): Model => ({
  ...model,
  tracks: model.tracks.map(change),
});
const spliced = <T>(frames: readonly T[], from: number, to: number, put: readonly T[]) => [
  ...frames.slice(0, from),
  ...put,
  ...frames.slice(to),
];
/** A change of time and of what is struck with it. */
const timed = (model: Model, change: <T>(frames: readonly T[], track: number, opened: T) => T[]): Model => ({
  ...model,
  tracks: model.tracks.map((frames, track) => change(frames, track, 'silence')),
  struck: change(model.struck, 0, false),
});
const tone = (length: number, seed: number): string[] =>
  framesOfPiece({ kind: 'tone', ...region, seed, from: 0, length, gainDb: 0 });

interface Case {
  name: string;
  edit: (timeline: Timeline) => Timeline;
  model: (model: Model) => Model;
}

/** Every edit of time and sound, done to the timeline and to arrays of frames. */
function cases(timeline: Timeline, random: () => number): Case[] {
  const end = sheetFramesOf(timeline);
  const [a, b, at] = [0, 0, 0].map(() => Math.floor(random() * (end + 1)));
  const range: Range = { from: Math.min(a, b), to: Math.max(a, b) };
  const by = Math.floor(random() * 41) - 20;
  const slide = Math.max(-range.from, Math.min(by, end - range.to));
  const struck = (value: boolean) => (model: Model) => ({
    ...model,
    struck: spliced(model.struck, range.from, range.to, Array<boolean>(range.to - range.from).fill(value)),
  });
  const passage = passages.copyPassage(timeline, range);
  const length = range.to - range.from;
  return [
    { name: 'strike', edit: (t) => strike(t, range), model: struck(true) },
    { name: 'stet', edit: (t) => stet(t, range), model: struck(false) },
    { name: 'split', edit: (t) => joints.split(t, at), model: (model) => model },
    {
      name: 'gain',
      edit: (t) => joints.changeGain(t, range, 3),
      model: (model) =>
        each(model, (frames) => frames.map((f, i) => (i >= range.from && i < range.to ? louder(f, 3) : f))),
    },
    {
      name: 'cut',
      edit: (t) => passages.cutPassage(t, range),
      model: (model) => timed(model, (frames) => spliced(frames, range.from, range.to, [])),
    },
    {
      name: 'paste',
      edit: (t) => passages.pastePassage(t, passage, at, { newId: newIds() }),
      model: (model) => timed(model, (frames) => spliced(frames, at, at, frames.slice(range.from, range.to))),
    },
    {
      name: 'paste over',
      edit: (t) => passages.pasteOver(t, passage, at, { newId: newIds(), gainDb: -2 }),
      model: (model) =>
        timed(
          model,
          (frames) =>
            spliced(
              frames,
              at,
              Math.min(end, at + length),
              frames.slice(range.from, range.to).map((f) => (typeof f === 'string' ? louder(f, -2) : f)),
            ) as (typeof frames)[number][],
        ),
    },
    {
      name: 'slide',
      edit: (t) => passages.slidePassage(t, range, by),
      model: (model) =>
        length === 0
          ? model
          : timed(model, (frames, _track, opened) => {
              const moved = frames.slice(range.from, range.to);
              const left = Array<typeof opened>(Math.abs(slide)).fill(opened);
              return slide >= 0
                ? spliced(frames, range.from, range.to + slide, [...left, ...moved])
                : spliced(frames, range.from + slide, range.to, [...moved, ...left]);
            }),
    },
    {
      name: 'patch tone',
      edit: (t) => room.patchTone(t, range, toneOf),
      model: (model) =>
        each(model, (frames, track) =>
          track === 0 ? spliced(frames, range.from, range.to, tone(length, range.from)) : frames,
        ),
    },
    {
      name: 'silence',
      edit: (t) => joints.silenceRange(t, range),
      model: (model) =>
        each(model, (frames) =>
          spliced(
            frames,
            range.from,
            range.to,
            gap(length).map(() => 'quiet'),
          ),
        ),
    },
    {
      name: 'longer pause',
      edit: (t) => {
        const clock = clockOf(t);
        const heard = clock.sheetToHeard(range.to) - clock.sheetToHeard(range.from);
        return room.setPauseLength(t, range, heard + 7);
      },
      model: (model) => {
        const isHeard = (struck: boolean) => !struck;
        const first = model.struck.slice(0, range.from).filter(isHeard).length;
        const inside = model.struck.slice(range.from, range.to).filter(isHeard).length;
        let left = first + Math.floor(inside / 2);
        let middle = 0;
        while (middle < model.struck.length && (left > 0 || model.struck[middle]))
          if (!model.struck[middle++]) left--;
        return timed(model, (frames, _track, opened) =>
          spliced(frames, middle, middle, Array<typeof opened>(7).fill(opened)),
        );
      },
    },
    {
      name: 'close up',
      edit: (t) => closeUp(t, range),
      model: (model) => {
        const gone = model.struck.map((struck, i) => struck && i >= range.from && i < range.to);
        return timed(model, (frames) => frames.filter((_, i) => !gone[i]));
      },
    },
  ];
}

describe.each(seeds(40))('random editing, seed %d', (seed) => {
  test('equals the naive model; undo and redo give back the identical states', () => {
    const random = seededRandom(seed);
    let timeline = appendRecording(
      emptyTimeline(['One', 'Two']),
      new Map([
        ['track-1', [audioPiece('first', 5, 80)]],
        ['track-2', [audioPiece('second', 9, 80)]],
      ]),
    );
    let model = modelOf(timeline);
    const states = [timeline];
    const steps: Difference[] = [];
    for (let number = 0; number < 25; number++) {
      const all = cases(timeline, random);
      const chosen = all[Math.floor(random() * all.length)];
      const after = chosen.edit(timeline);
      model = chosen.model(model);
      expect([chosen.name, ...textOf(modelOf(after))]).toEqual([chosen.name, ...textOf(model)]);
      after.tracks.forEach((track) => expectCanonical(track.table));
      steps.push(JSON.parse(JSON.stringify(difference(timeline, after))) as Difference);
      states.push(after);
      timeline = after;
      if (sheetFramesOf(timeline) > 400) timeline = removeTime(timeline, { from: 100, to: 300 });
      if (timeline !== after) {
        model = modelOf(timeline);
        steps.push(JSON.parse(JSON.stringify(difference(after, timeline))) as Difference);
        states.push(timeline);
      }
    }
    for (let i = steps.length - 1; i >= 0; i--) {
      timeline = apply(timeline, inverse(steps[i]));
      expect(storeTimeline(timeline)).toEqual(storeTimeline(states[i]));
    }
    for (const [i, step] of steps.entries()) {
      timeline = apply(timeline, step);
      expect(storeTimeline(timeline)).toEqual(storeTimeline(states[i + 1]));
    }
  });
});

const voice = (...pieces: Piece[]): Timeline => ({
  tracks: [{ id: 'track-1', name: 'Voice', table: PieceTable.of(pieces) }],
  struck: [],
  marks: [],
  places: [],
});
const twoVoices: Timeline = {
  tracks: ['track-1', 'track-2'].map((id) => ({
    id,
    name: id,
    table: PieceTable.of([audioPiece('a', 0, 100)]),
  })),
  struck: [],
  marks: [],
  places: [],
};
const placeOf = (source: string, at: number, length: number) => ({
  source,
  channel: 0,
  track: 'track-1',
  at,
  from: at,
  length,
});
const piecesOf = ({ tracks }: Timeline) => tracks[0].table.pieces;
const lengths = () => 1000;

describe('joints', () => {
  const cut = voice(audioPiece('a', 100, 200), audioPiece('b', 300, 200));

  test('a split stays where it is, is no join, and goes away when it is cleared', () => {
    const whole = voice(audioPiece('a', 0, 100));
    const two = joints.split(whole, 40);
    expect(piecesOf(two)).toHaveLength(2);
    expect(joints.pieceAround(two, 50)).toEqual({ from: 40, to: 100 });
    expect(joints.clearJoin(two, 40)).toEqual(whole);
    expect(joints.split(whole, 0)).toBe(whole);
    expect(joints.split(whole, 100)).toBe(whole);
  });

  test('moving a joint rolls the cut: more of one reading, less of the other, the same length', () => {
    const later = joints.moveJoint(cut, 200, 50, lengths);
    expect(piecesOf(later)).toEqual([audioPiece('a', 100, 250), audioPiece('b', 350, 150)]);
    expect(joints.moveJoint(later, 250, -50, lengths)).toEqual(cut);
  });

  test('it stops where a source or a piece ends', () => {
    expect(joints.jointRoom(cut.tracks[0].table, 200, lengths)).toEqual({ least: -199, most: 199 });
    const short = joints.moveJoint(cut, 200, 500, () => 320);
    expect(piecesOf(short)).toEqual([audioPiece('a', 100, 220), audioPiece('b', 320, 180)]);
    expect(joints.moveJoint(cut, 150, 10, lengths)).toBe(cut);
  });

  test('with several tracks all cuts at that place move alike', () => {
    const two: Timeline = {
      ...cut,
      tracks: [
        ...cut.tracks,
        { id: 'track-2', name: 'Two', table: PieceTable.of([audioPiece('c', 0, 400)]) },
      ],
    };
    const moved = joints.moveJoint(two, 200, 20, lengths);
    expect(moved.tracks[0].table.startOf(1)).toBe(220);
    expect(moved.tracks[1].table.pieces).toEqual([audioPiece('c', 0, 400)]);
  });

  test('moving the ends of a strike', () => {
    const struck = strike(voice(audioPiece('a', 0, 300)), { from: 100, to: 200 });
    const moved = joints.moveStrike(struck, { from: 100, to: 200 }, -30, 20);
    expect(moved.struck).toEqual([{ from: 70, to: 220 }]);
    expect(joints.moveStrike(moved, { from: 70, to: 220 }, 30, -20)).toEqual(struck);
  });

  test('trimming strikes what a piece has before or after the caret', () => {
    expect(joints.trimPiece(cut, 250, 'start').struck).toEqual([{ from: 200, to: 250 }]);
    expect(joints.trimPiece(cut, 250, 'end').struck).toEqual([{ from: 250, to: 400 }]);
  });

  test('a fade belongs to its edge: cut through, it comes back whole when the cut does', () => {
    const faded = joints.setFade(voice(audioPiece('a', 0, 300)), { from: 0, to: 100 }, 'fadeIn', 'power');
    const struck = strike(faded, { from: 40, to: 60 });
    const [heard] = heardTracks(struck);
    expect(heard.table.pieces.map(({ fadeIn }) => fadeIn)).toEqual([
      { frames: 100, shape: 'power' },
      undefined,
    ]);
    expect(stet(struck, { from: 40, to: 60 })).toEqual(faded);
    expect(joints.setFade(faded, { from: 0, to: 1 }, 'fadeIn', null)).toEqual(voice(audioPiece('a', 0, 300)));
  });

  test('gain stays within what a hand would set', () => {
    const loud = joints.changeGain(cut, { from: 0, to: 400 }, 500);
    expect(piecesOf(loud)[0]).toMatchObject({ gainDb: joints.gainLimitsDb.most });
  });
});

describe('passages', () => {
  test('into a part with other tracks they go by name, else by their place from the top', () => {
    const from = appendRecording(
      emptyTimeline(['One', 'Two']),
      new Map([
        ['track-1', [audioPiece('a', 0, 50)]],
        ['track-2', [audioPiece('b', 0, 50)]],
      ]),
    );
    const passage = passages.copyPassage(from, { from: 10, to: 30 });
    const other: Timeline = {
      tracks: [{ id: 'own', name: 'Voice', table: PieceTable.empty }],
      struck: [],
      marks: [],
      places: [],
    };
    const pasted = passages.pastePassage(other, passage, 0, { newId: newIds() });
    expect(piecesOf(pasted)).toEqual([audioPiece('a', 10, 20)]);
    expect(pasted.places).toEqual([{ source: 'a', channel: 0, track: 'own', at: 0, from: 10, length: 20 }]);
  });

  test('marks go along with names of their own', () => {
    const marked = addMark(voice(audioPiece('a', 0, 100)), {
      id: 'm',
      kind: 'note',
      at: 20,
      length: 0,
      name: 'Breath',
    });
    const passage = passages.copyPassage(marked, { from: 10, to: 40 });
    const twice = passages.pastePassage(marked, passage, 100, { newId: newIds() });
    expect(twice.marks.map(({ id, at }) => [id, at])).toEqual([
      ['m', 20],
      ['pasted-0', 110],
    ]);
  });

  test('part marks cut a long recording into parts', () => {
    const at = (frame: number, name: string) => ({
      id: name,
      kind: 'part' as const,
      at: frame,
      length: 0,
      name,
    });
    const long = [at(40, 'Two'), at(70, 'Three')].reduce(addMark, voice(audioPiece('a', 0, 100)));
    const ranges = passages.partRanges(long);
    expect(ranges).toEqual([
      { from: 0, to: 40, name: null },
      { from: 40, to: 70, name: 'Two' },
      { from: 70, to: 100, name: 'Three' },
    ]);
    const second = passages.timelineOfRange(long, ranges[1]);
    expect(piecesOf(second)).toEqual([audioPiece('a', 40, 30)]);
    expect(second.marks[0].at).toBe(0);
    // One at the very start names the first part; two at one place are one cut; one at the end is none.
    const named = [at(0, 'One'), at(40, 'Also two'), at(100, 'End')].reduce(addMark, long);
    expect(passages.partRanges(named).map(({ from, name }) => [from, name])).toEqual([
      [0, 'One'],
      [40, 'Also two'],
      [70, 'Three'],
    ]);
    const noted = addMark(long, { ...at(50, 'Note'), kind: 'note' });
    const flubbed = addMark(noted, { ...at(60, 'Flub'), kind: 'flub' });
    expect(passages.chapterMarks(flubbed).map(({ name }) => name)).toEqual(['Two', 'Note', 'Three']);
    const output = { gainDb: 1, dcOffsets: [0], ceiling: null };
    expect(passages.timelineOfRange({ ...long, output }, ranges[0]).output).toBe(output);
  });

  test('nothing copied is nothing pasted; marks stand in order of time; what is covered stays a place', () => {
    const whole = { ...voice(audioPiece('a', 0, 100)), places: [placeOf('a', 0, 100)] };
    const nothing = passages.copyPassage(whole, { from: 20, to: 20 });
    const options = { newId: newIds() };
    expect(passages.pastePassage(whole, nothing, 50, options)).toBe(whole);
    expect(passages.pasteOver(whole, nothing, 50, options)).toBe(whole);
    const marked = addMark(whole, { id: 'm', kind: 'note', at: 60, length: 0, name: 'n' });
    const pasted = passages.pastePassage(
      marked,
      passages.copyPassage(marked, { from: 50, to: 70 }),
      0,
      options,
    );
    expect(pasted.marks.map(({ at }) => at)).toEqual([10, 80]);
    const slid = passages.slidePassage(whole, { from: 10, to: 30 }, 40);
    expect(piecesOf(slid).map(({ kind, length }) => `${kind} ${length}`)).toEqual([
      'audio 10',
      'silence 40',
      'audio 20',
      'audio 30',
    ]);
    // The passage of 20 frames that is covered can be brought back: its place stands where it was.
    expect(slid.places.find(({ at, from }) => at === 50 && from === 50)).toMatchObject({ length: 20 });
    expect(passages.slidePassage(whole, { from: 10, to: 10 }, 40)).toBe(whole);
    expect(passages.slidePassage(whole, { from: 0, to: 30 }, -5)).toBe(whole);
  });
});

describe('room', () => {
  test('gaps an edit leaves are filled; silence that was asked for, and tracks without a tone, are left', () => {
    const two = insertTime(twoVoices, 50, 20);
    const filled = room.fillGaps(two, toneOf);
    expect(filled.tracks.map(({ table }) => table.pieces[1].kind)).toEqual(['tone', 'silence']);
    const meant = joints.silenceRange(filled, { from: 50, to: 70 });
    expect(room.fillGaps(meant, toneOf)).toBe(meant);
  });

  test('a pause gets the length it is given, heard', () => {
    const whole = voice(audioPiece('a', 0, 500));
    const pause = { from: 200, to: 300 };
    for (const frames of [0, 31, 100, 230]) {
      const set = room.setPauseLength(whole, pause, frames);
      expect(heardFramesOf(set)).toBe(400 + frames);
      // What stands beside the pause is untouched.
      expect(set.struck.every(({ from, to }) => from >= 200 && to <= 300)).toBe(true);
    }
    expect(room.setPauseLength(whole, pause, 100.4)).toBe(whole);
    expect(room.setPauseLength(whole, pause, 31).struck).toEqual([{ from: 215, to: 284 }]);
    const opened = room.setPauseLength(whole, pause, 130);
    expect(piecesOf(opened).map(({ length }) => length)).toEqual([250, 30, 250]);
  });

  test('one stave of several is silenced over a range: room tone there, silence without one', () => {
    const range = { from: 30, to: 50 };
    const kinds = (timeline: Timeline) =>
      timeline.tracks.map(({ table }) => table.pieces.map(({ kind, length }) => `${kind} ${length}`));
    expect(kinds(room.muteStave(twoVoices, 'track-1', range, toneOf))).toEqual([
      ['audio 30', 'tone 20', 'audio 50'],
      ['audio 100'],
    ]);
    expect(kinds(room.muteStave(twoVoices, 'track-2', range, toneOf))).toEqual([
      ['audio 100'],
      ['audio 30', 'silence 20', 'audio 50'],
    ]);
    expect(room.muteStave(twoVoices, 'track-1', { from: 30, to: 30 }, toneOf)).toBe(twoVoices);
  });

  test('every range of a kind is struck at once', () => {
    const mark = (id: string, at: number, length: number) => ({
      id,
      kind: 'flub' as const,
      at,
      length,
      name: id,
    });
    const marked = [mark('1', 10, 20), mark('2', 50, 0), mark('3', 60, 10)].reduce(
      addMark,
      voice(audioPiece('a', 0, 100)),
    );
    expect(room.strikeMarked(marked, 'flub').struck).toEqual([
      { from: 10, to: 30 },
      { from: 60, to: 70 },
    ]);
  });

  test('the best of several readings are laid out with their spacing', () => {
    const whole = voice(audioPiece('a', 0, 1000));
    const groups = [
      {
        readings: [
          { from: 100, to: 200 },
          { from: 250, to: 340 },
        ],
        chosen: { from: 100, to: 200 },
      },
      {
        readings: [
          { from: 400, to: 500 },
          { from: 520, to: 600 },
        ],
        chosen: { from: 520, to: 600 },
      },
      { readings: [{ from: 610, to: 700 }], chosen: { from: 610, to: 700 } },
    ];
    const laid = room.layOutReadings(whole, groups, 50);
    const heardFrom = (frame: number) => clockOf(laid).sheetToHeard(frame);
    // Sheet frames after the inserted pause are 40 later.
    expect(heardFrom(520) - heardFrom(200)).toBe(50);
    expect(heardFrom(650) - heardFrom(600)).toBe(50);
    expect(laid.struck[0].from).toBe(225);
    // A line between two groups that was read once stays, with its own spacing.
    const between = room.layOutReadings(whole, groups.slice(0, 2), 20, [{ from: 360, to: 380 }]);
    const struck = between.struck;
    expect(struck.some(({ from, to }) => from < 380 && to > 360)).toBe(false);
    expect(struck[0]).toEqual({ from: 210, to: 350 });
    // The first of a last group is chosen: what follows it is struck, up to the end of the readings.
    const first = room.layOutReadings(whole, [{ ...groups[0], chosen: groups[0].readings[0] }], 40);
    expect(first.struck).toEqual([{ from: 220, to: 340 }]);
    const second = room.layOutReadings(whole, [{ ...groups[0], chosen: groups[0].readings[1] }], 40);
    expect(second.struck).toEqual([{ from: 100, to: 230 }]);
    expect(room.layOutReadings(whole, [], 40)).toBe(whole);
  });
});
