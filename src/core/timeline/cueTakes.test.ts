import { addCharacters, addCues, changeCharacter, changeCues } from './cueEdits';
import { cuePlacement, hearCueTake, heardTakes, placeCueTake, takeInPlace } from './cueTakes';
import { silence } from './pieces';
import { apply, difference, inverse } from './history';
import type { Recorded } from './overlay';
import { stackAt, placeRecording, placementStart, punchOf } from './takes';
import { emptyTimeline, sheetFramesOf, type Timeline } from './timeline';

const take = (source: string, length: number, track = 'track-1', handle = 50): Recorded =>
  new Map([[track, [{ kind: 'audio', source, channel: 0, from: handle, length, gainDb: 0 }]]]);

/** Runs of the same source on a track, as `name from–to`; silence is left out. */
function heard({ tracks }: Timeline, track = 0): string[] {
  let at = 0;
  return tracks[track].table.pieces.flatMap((piece) => {
    const from = at;
    at += piece.length;
    return piece.kind === 'audio' ? [`${piece.source}${piece.from} ${from}–${at}`] : [];
  });
}

const cue = (id: string, from: number, to: number) => ({ id, number: id, from, to, text: '', note: '' });
const sheet = addCues(emptyTimeline(['Old', 'Young']), [
  cue('1', 100, 200),
  cue('2', 230, 300),
  cue('3', 500, 600),
]);
const second = cuePlacement(cue('2', 230, 300), 20, 40);

describe('takes of a cue', () => {
  test('one begins some time before its line and ends some time after it; the sheet reaches as far', () => {
    expect(placementStart(sheet, second)).toBe(210);
    expect(punchOf(sheet, second)).toBe(230);
    const after = placeRecording(sheet, take('a', 130), second);
    expect(heard(after)).toEqual(['a50 210–340']);
    expect(sheetFramesOf(after)).toBe(340);
    expect(cuePlacement(cue('0', 5, 9), 20, null)).toMatchObject({ from: 0, in: 5, to: null });
  });

  test('what it has before and after its line gives way to the cues beside it, but is kept in its place', () => {
    const after = placeCueTake(sheet, take('a', 150), cuePlacement(cue('1', 100, 200), 20, 50));
    expect(heard(after)).toEqual(['a50 80–230']);
    // 80–250 was recorded; cue 2 begins at 230.
    const longer = placeCueTake(sheet, take('a', 170), cuePlacement(cue('1', 100, 200), 20, 50));
    expect(heard(longer)).toEqual(['a50 80–230']);
    expect(longer.places).toMatchObject([{ source: 'a', at: 80, length: 170 }]);
    const wide = placeCueTake(longer, take('b', 200), cuePlacement(cue('2', 230, 300), 100, 30));
    expect(heard(wide)).toEqual(['a50 80–200', 'b120 200–330']);
  });

  test('of another character on a track of their own there is nothing to give way to', () => {
    const named = addCharacters(sheet, ['Young'], () => 'young');
    const given = changeCharacter(
      changeCues(named, new Set(['2']), () => ({ character: 'young' })),
      'young',
      { track: 'track-2' },
    );
    const after = placeCueTake(given, take('a', 170), cuePlacement(cue('1', 100, 200), 20, 50));
    expect(heard(after)).toEqual(['a50 80–250']);
    expect(heard(after, 1)).toEqual([]);
  });

  test('nothing of an earlier take is heard behind a shorter one; the other track is left alone', () => {
    const both = placeCueTake(
      placeCueTake(sheet, take('a', 130), second),
      take('other', 60, 'track-2'),
      second,
    );
    const after = placeCueTake(both, take('b', 50), second);
    expect(heard(after)).toEqual(['b50 210–260']);
    expect(heard(after, 1)).toEqual(['other50 210–270']);
    expect([...stackAt(after, { from: 230, to: 300 }).keys()].sort()).toEqual(['a', 'b', 'other']);
  });

  test('one that was stopped during its run-up is in its place, and the line is silent', () => {
    const after = placeCueTake(placeCueTake(sheet, take('a', 130), second), take('b', 12), second);
    expect(heard(after)).toEqual(['b50 210–222']);
  });

  test('of the take that was heard before nothing is left around one that begins later and ends sooner', () => {
    const first = placeCueTake(sheet, take('a', 130), second);
    const after = placeCueTake(first, take('b', 60), { ...second, from: 225 });
    expect(heard(after)).toEqual(['b50 225–285']);
    // What belongs to the cue before stays, and so does what nobody heard in this one.
    const other = placeCueTake(sheet, take('c', 130), cuePlacement(cue('1', 100, 200), 20, 10));
    expect(heard(placeCueTake(other, take('b', 60), { ...second, from: 225 }))).toEqual([
      'c50 80–210',
      'b50 225–285',
    ]);
  });

  test('one that runs on covers the cues behind it', () => {
    const on = cuePlacement(cue('2', 230, 300), 20, null);
    const third = placeCueTake(sheet, take('c', 120), cuePlacement(cue('3', 500, 600), 20, 0));
    const after = placeCueTake(third, take('a', 360), on);
    expect(heard(after)).toEqual(['a50 210–570', 'c140 570–600']);
  });

  test('one that was cut and lengthened keeps what was done to it when it is heard again', () => {
    const cut: Recorded = new Map([
      [
        'track-1',
        [
          { kind: 'audio', source: 'a', channel: 0, from: 50, length: 40, gainDb: 0 },
          silence(10),
          { kind: 'audio', source: 'a', channel: 0, from: 110, length: 30, gainDb: 0 },
        ],
      ],
    ]);
    const fitted = placeCueTake(sheet, cut, second);
    expect(heard(fitted)).toEqual(['a50 210–250', 'a110 260–290']);
    const other = placeCueTake(fitted, take('b', 130), second);
    const placed = takeInPlace(other.places, 'a');
    expect(placed).toEqual({ from: 210, recorded: cut });
    expect(heard(hearCueTake(other, placed?.recorded ?? cut, second, 'a'))).toEqual(heard(fitted));
  });

  test('an earlier take is heard again in its place; undone, everything is as it was', () => {
    const two = placeCueTake(placeCueTake(sheet, take('a', 130), second), take('b', 50), second);
    expect(heardTakes(two, { from: 230, to: 300 }, new Set(['track-1']))).toEqual(['b']);
    const again = hearCueTake(two, take('a', 130), second, 'a');
    expect(heard(again)).toEqual(['a50 210–340']);
    expect(takeInPlace(again.places, 'a')).toEqual({ from: 210, recorded: take('a', 130) });
    expect(takeInPlace(again.places, 'z')).toBeNull();
    expect(again.places.filter(({ source }) => source === 'a')).toHaveLength(1);
    const step = difference(two, again);
    expect(apply(again, inverse(step))).toEqual(two);
  });
});
