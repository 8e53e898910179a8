import { seededRandom } from '../base/random';
import { closeUp, strike } from './edits';
import { heardTracks } from './heard';
import { changeGain, moveJoint, silenceRange, split } from './joints';
import { copyPassage, pasteOver, pastePassage, slidePassage } from './passages';
import { muteStave, patchTone } from './roomEdits';
import { overlay, recordedFrames, type Recorded } from './overlay';
import type { Range } from './range';
import { apply, difference, inverse } from './history';
import type { Piece } from './pieces';
import {
  appendRecording,
  hearTake,
  insertRecording,
  placeRecording,
  placementStart,
  replaceRange,
  retake,
  stackAt,
  type Placement,
} from './takes';
import { clockOf, emptyTimeline, type Mark, type Timeline } from './timeline';
import { loadTimeline, plainTimeline } from './stored';
import { addTrack, changeTrack, removeTrack } from './tracks';
import { seeds } from '../testing/seeds';

const piece = (source: string, from: number, length: number, channel = 0): Piece => ({
  kind: 'audio',
  source,
  channel,
  from,
  length,
  gainDb: 0,
});
const take = (source: string, length: number, track = 'track-1'): Recorded =>
  new Map([[track, [piece(source, 50, length)]]]);
const mark = (id: string, kind: Mark['kind'], at: number, length = 0): Mark => ({
  id,
  kind,
  at,
  length,
  name: id,
});

/**
 * What stands at each sheet frame, written out: `a7` is frame 7 of source a, `a7~` the same, struck; `.` is
 * silence.
 */
function written(timeline: Timeline): string[][] {
  const clock = clockOf(timeline);
  return timeline.tracks.map(({ table }) => {
    const all = table.pieces.flatMap((entry) =>
      Array.from({ length: entry.length }, (_, i) =>
        entry.kind === 'audio' ? `${entry.source}${entry.from + i}` : '.',
      ),
    );
    return all.map((frame, at) => (clock.isStruck(at) ? `${frame}~` : frame));
  });
}

const frames = (source: string, from: number, to: number, suffix = '') =>
  Array.from({ length: to - from }, (_, i) => `${source}${from + i}${suffix}`);

const room = { source: 'room', channel: 0, start: 0, end: 900 };
const first = appendRecording(emptyTimeline(['Voice']), take('a', 100));

describe('the four ways to record', () => {
  test('Continue stands at the end', () => {
    const after = appendRecording(first, take('b', 10));
    expect(written(after)).toEqual([[...frames('a', 50, 150), ...frames('b', 50, 60)]]);
  });

  test('Retake overwrites what follows the caret as far as it goes; the rest of the abandoned sentence is struck', () => {
    const after = retake(first, take('b', 20), 30, 65);
    expect(written(after)).toEqual([
      [
        ...frames('a', 50, 80),
        ...frames('b', 50, 70),
        ...frames('a', 100, 115, '~'),
        ...frames('a', 115, 150),
      ],
    ]);
  });

  test('Retake beyond the end makes the sheet longer, and strikes nothing', () => {
    const after = retake(first, take('b', 50), 80, 130);
    expect(written(after)).toEqual([[...frames('a', 50, 130), ...frames('b', 50, 100)]]);
  });

  test('Insert opens a gap and moves everything after it', () => {
    const marked = { ...first, marks: [mark('before', 'note', 10), mark('after', 'flub', 40, 5)] };
    const after = insertRecording(marked, take('b', 20), 30);
    expect(written(after)).toEqual([
      [...frames('a', 50, 80), ...frames('b', 50, 70), ...frames('a', 80, 150)],
    ]);
    expect(after.marks.map(({ at }) => at)).toEqual([10, 60]);
  });

  test('Patch replaces exactly the selection; stopped early, only as much as was read', () => {
    const placement: Placement = { mode: 'patch', from: 20, to: 50, length: 'selection' };
    expect(written(placeRecording(first, take('b', 30), placement))).toEqual([
      [...frames('a', 50, 70), ...frames('b', 50, 80), ...frames('a', 100, 150)],
    ]);
    expect(written(placeRecording(first, take('b', 10), placement))).toEqual([
      [...frames('a', 50, 70), ...frames('b', 50, 60), ...frames('a', 80, 150)],
    ]);
  });

  test.each([10, 30, 45])(
    'Patch with the reading’s own %d frames in place of 30: what follows moves',
    (length) => {
      const after = replaceRange(first, take('b', length), { from: 20, to: 50 });
      expect(written(after)).toEqual([
        [...frames('a', 50, 70), ...frames('b', 50, 50 + length), ...frames('a', 100, 150)],
      ]);
    },
  );

  test('where each begins', () => {
    expect(placementStart(first, { mode: 'continue' })).toBe(100);
    expect(placementStart(first, { mode: 'retake', at: 7 })).toBe(7);
    expect(placementStart(first, { mode: 'insert', at: 8 })).toBe(8);
    expect(placementStart(first, { mode: 'patch', from: 9, to: 20, length: 'reading' })).toBe(9);
  });
});

describe('marks', () => {
  test('flubs and level marks of the old reading go with it; notes, and what was set while recording, stay', () => {
    const marks = [
      mark('old', 'flub', 32),
      mark('new', 'flub', 35),
      mark('loud', 'clipped', 36, 3),
      mark('note', 'note', 37),
      mark('outside', 'flub', 70),
    ];
    const after = overlay({ ...first, marks }, take('b', 20), 30, new Set(['new']));
    expect(after.marks.map(({ id }) => id)).toEqual(['new', 'note', 'outside']);
  });

  test('set while inserting, they stand in the gap already and do not move', () => {
    const marks = [mark('new', 'flub', 35), mark('old', 'flub', 36)];
    const after = insertRecording({ ...first, marks }, take('b', 20), 30, new Set(['new']));
    expect(after.marks).toEqual([
      expect.objectContaining({ id: 'new', at: 35 }),
      expect.objectContaining({ id: 'old', at: 56 }),
    ]);
  });
});

describe('several tracks', () => {
  const two = appendRecording(
    emptyTimeline(['A', 'B']),
    new Map([
      ['track-1', [piece('a', 50, 100)]],
      ['track-2', [piece('a', 50, 100, 1)]],
    ]),
  );

  test('only armed tracks are overwritten; the abandoned rest falls silent there, because striking takes the time of all', () => {
    const after = retake(two, take('b', 20), 30, 60);
    const [a, b] = written(after);
    expect(a).toEqual([
      ...frames('a', 50, 80),
      ...frames('b', 50, 70),
      ...Array(10).fill('.'),
      ...frames('a', 110, 150),
    ]);
    expect(b).toEqual(frames('a', 50, 150));
  });

  test('with all armed the rest is struck on all', () => {
    const both: Recorded = new Map([
      ['track-1', [piece('b', 50, 20)]],
      ['track-2', [piece('b', 50, 20, 1)]],
    ]);
    expect(retake(two, both, 30, 60).struck).toEqual([{ from: 50, to: 60 }]);
  });

  test('a shorter reading of one track cuts nothing from the others', () => {
    const after = replaceRange(two, take('b', 10), { from: 20, to: 50 });
    expect(written(after)[1]).toEqual(frames('a', 50, 150));
    expect(written(after)[0]).toHaveLength(100);
    const longer = replaceRange(two, take('b', 40), { from: 20, to: 50 });
    expect(longer.tracks.map(({ table }) => table.frames)).toEqual([110, 110]);
  });

  test('tracks come, go and get names as steps that can be undone', () => {
    const added = addTrack(two, { id: 'c', name: 'C' });
    expect(added.tracks.map(({ table }) => table.frames)).toEqual([100, 100, 100]);
    const named = changeTrack(removeTrack(added, 'track-1'), 'c', { name: 'Left', side: 'left' });
    const step = difference(two, named);
    expect(apply(two, JSON.parse(JSON.stringify(step)))).toEqual(named);
    expect(apply(named, inverse(step))).toEqual(two);
    expect(removeTrack(first, 'track-1')).toBe(first);
  });
});

describe('several tracks have one clock', () => {
  const both = (length: number): Recorded =>
    new Map([
      ['track-1', [piece('a', 0, length)]],
      ['track-2', [piece('b', 0, length)]],
    ]);
  const two = appendRecording(emptyTimeline(['One', 'Two']), both(1000));
  const struck = strike(two, { from: 300, to: 600 });
  const heardFrames = (timeline: Timeline) => heardTracks(timeline).map(({ table }) => table.frames);
  const range = { from: 300, to: 600 };
  const newId = () => 'new';

  test.each<[string, (timeline: Timeline) => Timeline]>([
    ['hearing the take of one track', (t) => hearTake(t, 'b', range)],
    ['a patch with one track armed', (t) => overlay(t, take('c', 300), 300)],
    ['a patch of its own length', (t) => replaceRange(t, take('c', 100), range)],
    ['a retake of one track', (t) => retake(t, take('c', 100), 250, 700)],
    [
      'pasting what one track alone has',
      (t) => {
        const passage = copyPassage(t, { from: 0, to: 200 });
        return pasteOver(t, { ...passage, tracks: passage.tracks.slice(0, 1) }, 350, { newId });
      },
    ],
    ['pasting a struck passage', (t) => pastePassage(t, copyPassage(t, range), 0, { newId })],
    ['room tone on one track', (t) => patchTone(t, range, (id) => (id === 'track-1' ? room : null))],
    ['one stave alone struck', (t) => muteStave(t, 'track-2', { from: 500, to: 800 }, () => null)],
    ['a joint inside what is struck', (t) => split(t, 400)],
    ['a joint that is moved', (t) => moveJoint(split(t, 400), 400, 20, () => 5000)],
    ['a passage that slides', (t) => slidePassage(t, { from: 100, to: 450 }, 90)],
    ['a gain', (t) => changeGain(t, { from: 200, to: 400 }, 3, new Set(['track-1']))],
    ['silence', (t) => silenceRange(t, { from: 200, to: 400 }, new Set(['track-1']))],
  ])('%s leaves both as long as each other', (_, edit) => {
    const after = edit(struck);
    const [one, other] = heardFrames(after);
    expect(one).toBe(other);
    expect(one).toBe(clockOf(after).heardFrames);
    expect(after.tracks[0].table.frames).toBe(after.tracks[1].table.frames);
  });

  test('what is heard again stands again on all tracks, so what follows is in step', () => {
    const after = hearTake(struck, 'b', range);
    expect(after.struck).toEqual([]);
    expect(heardFrames(after)).toEqual([1000, 1000]);
    const kept = hearTake(struck, 'b', { from: 300, to: 400 });
    expect(kept.struck).toEqual([{ from: 400, to: 600 }]);
  });
});

describe('the stack of takes', () => {
  test('an overwritten reading can be heard again, all of it or a part, without moving time', () => {
    const after = retake(first, take('b', 20), 30, 0);
    const range = { from: 35, to: 45 };
    expect([...stackAt(after, range).keys()]).toEqual(['a', 'b']);
    const back = hearTake(after, 'a', range);
    expect(written(back)).toEqual([
      [
        ...frames('a', 50, 80),
        ...frames('b', 50, 55),
        ...frames('a', 85, 95),
        ...frames('b', 65, 70),
        ...frames('a', 100, 150),
      ],
    ]);
    // Neighbours of one source grow together again.
    expect(hearTake(after, 'a', { from: 30, to: 50 }).tracks).toEqual(first.tracks);
    // A take that reaches only half of a range is heard there only.
    expect(written(hearTake(after, 'b', { from: 40, to: 90 }))).toEqual(written(after));
  });

  test('places move with edits: after closing up and inserting, every take is still found where its audio belongs', () => {
    const second = retake(first, take('b', 20), 30, 0);
    const closed = closeUp(strike(second, { from: 10, to: 35 }), { from: 0, to: 100 });
    expect(written(hearTake(closed, 'a', { from: 10, to: 25 }))[0].slice(8, 27)).toEqual([
      'a58',
      'a59',
      ...frames('a', 85, 100),
      'a100',
      'a101',
    ]);
    const opened = insertRecording(second, take('c', 7), 40);
    expect(written(hearTake(opened, 'a', { from: 0, to: 107 }))[0]).toEqual([
      ...frames('a', 50, 90),
      ...frames('c', 50, 57),
      ...frames('a', 90, 150),
    ]);
  });

  test('a part from before places existed has those of its pieces', () => {
    const stored = plainTimeline(first);
    const { tracks, marks } = stored;
    const pieces = tracks[0].pieces.map((one) => ({ ...one, struck: false }));
    expect(loadTimeline({ tracks: [{ ...tracks[0], pieces }], marks }).places).toEqual(first.places);
    expect(loadTimeline(JSON.parse(JSON.stringify(stored)))).toEqual(first);
  });
});

/**
 * Whatever is done, the four ways agree with lists of frames, tracks stay equally long, and undo gives the
 * same timeline back.
 */
test.each(seeds(40))('a naive model agrees, seed %d', (seed) => {
  const random = seededRandom(seed);
  const upTo = (most: number) => Math.floor(random() * (most + 1));
  let timeline = first;
  let model = written(first)[0];
  for (let step = 0; step < 25; step++) {
    const end = model.length;
    const length = 1 + upTo(30);
    const source = `s${step}_`;
    const fresh = frames(source, 50, 50 + length);
    const at = upTo(end);
    const range: Range = { from: at, to: at + upTo(end - at) };
    const before = timeline;
    const recorded = take(source, length);
    switch (upTo(4)) {
      case 0:
        timeline = appendRecording(timeline, recorded);
        model = [...model, ...fresh];
        break;
      case 1:
        timeline = retake(timeline, recorded, at, 0);
        model = [...model.slice(0, at), ...fresh, ...model.slice(at + length)];
        break;
      case 2:
        timeline = insertRecording(timeline, recorded, at);
        model = [...model.slice(0, at), ...fresh, ...model.slice(at)];
        break;
      case 3:
        timeline = replaceRange(timeline, recorded, range);
        model = [...model.slice(0, range.from), ...fresh, ...model.slice(range.to)];
        break;
      default: {
        // Any take in any range: what its places say is what is heard.
        const ids = [...stackAt(timeline, range).keys()];
        const id = ids[upTo(ids.length - 1)];
        if (!id) break;
        const places = stackAt(timeline, range).get(id) ?? [];
        timeline = hearTake(timeline, id, range);
        model = [...model];
        for (const place of places) {
          for (let i = 0; i < place.length; i++) model[place.at + i] = `${id}${place.from + i}`;
        }
      }
    }
    expect(written(timeline)[0]).toEqual(model);
    expect(recordedFrames(recorded)).toBe(length);
    const change = JSON.parse(JSON.stringify(difference(before, timeline)));
    expect(apply(before, change)).toEqual(timeline);
    expect(apply(timeline, inverse(change))).toEqual(before);
  }
});
