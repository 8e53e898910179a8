import { seededRandom } from '../base/random';
import { plainClip, memorySources } from '../testing/mixing';
import { audioPiece, framesOfPiece } from '../testing/naiveTimeline';
import { seeds } from '../testing/seeds';
import { firstDifference, noise } from '../testing/signals';
import { makeRoom } from './bedRoom';
import * as edits from './edits';
import {
  addGuide,
  cutBack,
  guidesOf,
  isInStep,
  keepStep,
  letGo,
  recordedTo,
  removeGuide,
  renameGuide,
  takeUpStep,
} from './guides';
import { apply, difference, inverse, isEmpty, sourcesOfStep } from './history';
import { addBed, changeStrip } from './mixEdits';
import { PartRenderer } from './partRenderer';
import { copyPassage, cutPassage, pasteOver, pastePassage, slidePassage, timelineOfRange } from './passages';
import { PieceTable } from './pieces';
import { soundingOf } from './sounding';
import { loadTimeline, plainTimeline, storeTimeline } from './stored';
import { overlay } from './overlay';
import { insertRecording, retake } from './takes';
import { emptyTimeline, sheetFramesOf, sourcesOf, type Timeline } from './timeline';

const voice = (...lengths: number[]): Timeline => {
  const empty = emptyTimeline(['Mine']);
  const pieces = lengths.map((length, index) => audioPiece(`take-${index}`, 0, length));
  return { ...empty, tracks: [{ ...empty.tracks[0], table: PieceTable.of(pieces) }] };
};
const statement = { id: 'guide', name: 'Statement', pieces: [audioPiece('statement', 0, 1000)] };
const guided = (timeline = voice(400)) => addGuide(timeline, statement);
const mine = new Set(['track-1']);
const framesOf = ({ pieces }: PieceTable) => pieces.flatMap(framesOfPiece);
const guideFrames = (timeline: Timeline) => framesOf(guidesOf(timeline)[0].table);
const voiceFrames = (timeline: Timeline) => framesOf(timeline.tracks[0].table);
const newId = () => 'new';
/** What becomes of an edit that is let through. */
function held(before: Timeline, after: Timeline): Timeline {
  const kept = keepStep(before, after);
  if (!kept) throw new Error('was refused');
  return kept;
}

test('a guide gives the part its time: what was struck is closed up, the voice goes on silent to its end', () => {
  const timeline = guided(edits.strike(voice(400, 300), { from: 100, to: 250 }));
  expect(isInStep(timeline)).toBe(true);
  expect(timeline.struck).toEqual([]);
  expect(sheetFramesOf(timeline)).toBe(1000);
  expect(recordedTo(timeline, mine)).toBe(550);
  expect(guideFrames(timeline)[0]).toBe('statement:0:0:0');
});

test('a guide that is shorter than the voice ends before it; one may begin later', () => {
  const timeline = addGuide(voice(2000), statement, 300);
  expect(sheetFramesOf(timeline)).toBe(2000);
  expect(guideFrames(timeline)).toHaveLength(1300);
  expect(guideFrames(timeline)[300]).toBe('statement:0:0:0');
});

describe('in step', () => {
  const long = guided(voice(800));

  test('what would move time is refused, wherever the guide still sounds', () => {
    const passage = copyPassage(long, { from: 0, to: 50 });
    const take = new Map([['track-1', [audioPiece('insert', 0, 60)]]]);
    for (const moved of [
      edits.insertTime(long, 500, 10),
      edits.removeTime(long, { from: 10, to: 20 }),
      cutPassage(long, { from: 10, to: 20 }),
      cutPassage(long, { from: 900, to: 1000 }),
      pastePassage(long, passage, 500, { newId }),
      insertRecording(long, take, 200),
      slidePassage(long, { from: 100, to: 200 }, 30),
      edits.closeUp(edits.strike(long, { from: 1, to: 9 }), { from: 0, to: 1000 }),
    ])
      expect(keepStep(long, moved)).toBeNull();
  });

  test('what is struck falls silent on the voices and keeps its time', () => {
    const kept = held(long, edits.strike(long, { from: 100, to: 250 }));
    expect(kept.struck).toEqual([]);
    expect(guideFrames(kept)).toEqual(guideFrames(long));
    const before = voiceFrames(long);
    expect(voiceFrames(kept)).toEqual(before.map((frame, at) => (at >= 100 && at < 250 ? 'silence' : frame)));
  });

  test('recording over it, pasting over and what is done on one stave are as ever', () => {
    const take = new Map([['track-1', [audioPiece('again', 0, 300)]]]);
    const passage = copyPassage(long, { from: 0, to: 50 });
    for (const fine of [
      overlay(long, take, 600),
      pasteOver(long, passage, 500, { newId }),
      cutBack(long, 300, mine),
      removeGuide(long, 'guide'),
      letGo(long, 'guide'),
      overlay(long, take, 900),
    ])
      expect(keepStep(long, fine)).toBe(fine);
  });

  test('what is left over of an abandoned sentence falls silent, as what is struck does', () => {
    const take = new Map([['track-1', [audioPiece('again', 0, 300)]]]);
    const kept = held(long, retake(long, take, 100, 450));
    expect(kept.struck).toEqual([]);
    expect(voiceFrames(kept)[399]).toBe('again:0:299:0');
    expect(
      voiceFrames(kept)
        .slice(400, 450)
        .every((frame) => frame === 'silence'),
    ).toBe(true);
    expect(voiceFrames(kept)[450]).toBe('take-0:0:450:0');
  });

  test('let go of step, time is edited again and the guide goes with it; taken up, it stays as it is', () => {
    const free = letGo(long, 'guide');
    expect(isInStep(free)).toBe(false);
    const cut = edits.removeTime(free, { from: 100, to: 200 });
    expect(keepStep(free, cut)).toBe(cut);
    expect(guideFrames(cut)).toEqual(guideFrames(long).filter((_, at) => at < 100 || at >= 200));
    const again = takeUpStep(edits.strike(cut, { from: 0, to: 50 }), 'guide');
    expect(isInStep(again)).toBe(true);
    expect(again.struck).toEqual([]);
    expect(guideFrames(again)).toEqual(guideFrames(cut).slice(50));
  });

  test.each(seeds(40))('seed %i: no edit that is let through moves the guide or slips the voice', (seed) => {
    const random = seededRandom(seed);
    const below = (most: number) => Math.floor(random() * most);
    let timeline = guided(voice(500, 300));
    // A take is heard where it was recorded, and nowhere else.
    const offsets = new Map<string, number>();
    for (let step = 0; step < 30; step++) {
      const range = { from: below(900), to: 0 };
      range.to = range.from + 1 + below(Math.min(120, sheetFramesOf(timeline) - range.from - 1));
      const take = new Map([['track-1', [audioPiece(`take-${seed}-${step}`, 0, 20 + below(80))]]]);
      const changed = [
        () => edits.strike(timeline, range),
        () => edits.stet(timeline, range),
        () => edits.removeTime(timeline, range),
        () => edits.insertTime(timeline, range.from, 1 + below(40)),
        () => insertRecording(timeline, take, range.from),
        () => retake(timeline, take, range.from, range.to),
        () => overlay(timeline, take, range.from),
        () => cutPassage(timeline, range),
        () => slidePassage(timeline, range, below(80) - 40),
        () => cutBack(timeline, range.from, mine),
      ][below(10)]();
      const kept = keepStep(timeline, changed);
      if (kept === null) continue;
      expect(guideFrames(kept)).toEqual(guideFrames(guided()));
      const told = difference(timeline, kept);
      expect(plainTimeline(apply(kept, inverse(told)))).toEqual(plainTimeline(timeline));
      timeline = kept;
      const { table } = timeline.tracks[0];
      table.pieces.forEach((piece, index) => {
        if (piece.kind !== 'audio') return;
        const offset = table.startOf(index) - piece.from;
        if (!offsets.has(piece.source)) offsets.set(piece.source, offset);
        if (offsets.get(piece.source) !== offset) throw new Error(`${piece.source} slipped`);
      });
    }
  });
});

test('cut back: from the caret on nothing of the voice is heard, its time stays, other voices too', () => {
  const timeline = guided(voice(600));
  const cut = cutBack(timeline, 250, mine);
  expect(recordedTo(cut, mine)).toBe(250);
  expect(sheetFramesOf(cut)).toBe(1000);
  expect(cutBack(timeline, 600, mine)).toBe(timeline);
  expect(cutBack(timeline, 100, new Set(['other']))).toBe(timeline);
});

describe('a guide is kept', () => {
  const timeline = changeStrip(renameGuide(guided(), 'guide', 'Visitor'), 'guide', { levelDb: -6 });

  test('stored, read again, undone and done again', () => {
    expect(loadTimeline(storeTimeline(timeline))).toEqual(timeline);
    const step = difference(voice(400), timeline);
    expect(isEmpty(step)).toBe(false);
    expect(sourcesOfStep({ label: '', difference: step })).toContain('statement');
    expect(sourcesOf(timeline)).toContain('statement');
    const undone = apply(timeline, inverse(step));
    expect(undone.guides).toBeUndefined();
    expect(plainTimeline(apply(undone, step))).toEqual(plainTimeline(timeline));
    expect(isEmpty(difference(timeline, letGo(timeline, 'guide')))).toBe(false);
    expect(isEmpty(difference(timeline, loadTimeline(storeTimeline(timeline))))).toBe(true);
  });

  test('removed, its level goes with it; a passage that becomes a part leaves it behind', () => {
    expect(removeGuide(timeline, 'guide').mix).toBeUndefined();
    const part = timelineOfRange(timeline, { from: 0, to: 100 });
    expect(part.guides).toBeUndefined();
    expect(part.mix?.strips ?? []).toEqual([]);
  });
});

describe('heard', () => {
  const rateHz = 48_000;
  const frames = 6000;
  const sources = memorySources({
    'take-0': [noise(frames, -20, 1)],
    statement: [noise(frames, -20, 2)],
    music: [noise(frames, -20, 3)],
  });
  const settings = { joins: { joinFrames: 0 }, rateHz };
  const whole = addGuide(voice(frames), {
    ...statement,
    pieces: [audioPiece('statement', 0, frames)],
  });
  const render = async (timeline: Timeline, guidedBy?: (id: string) => boolean) =>
    (
      await new PartRenderer(soundingOf(timeline, settings, undefined, guidedBy), sources).mix(
        { delivering: 1 },
        0,
        frames,
      )
    )[0];
  const recorded = async (source: string) => {
    const samples = new Float32Array(frames);
    await sources.read(source, 0, 0, frames, samples, 0);
    return samples;
  };

  test('only where it is asked for: nothing that is measured or written has it by itself', async () => {
    expect(firstDifference(await render(whole), await recorded('take-0'))).toBe(-1);
    const both = await render(whole, () => true);
    const [take, guide] = [await recorded('take-0'), await recorded('statement')];
    expect(
      firstDifference(
        both,
        take.map((value, i) => value + guide[i]),
      ),
    ).toBe(-1);
  });

  test('music that would begin before a part in step opens no time in it', () => {
    const clip = plainClip('music', frames, { begin: { moment: { kind: 'start' }, after: -500 } });
    const withBed = addBed(whole, { id: 'bed', name: 'Music', clips: [clip] });
    expect(makeRoom(withBed)).toBe(withBed);
    expect(sheetFramesOf(makeRoom(letGo(withBed, 'guide')))).toBe(frames + 500);
  });

  test('a bed under it is still a bed', async () => {
    const clip = plainClip('music', frames);
    const withBed = addBed(whole, { id: 'bed', name: 'Music', clips: [clip] });
    const [take, music] = [await recorded('take-0'), await recorded('music')];
    expect(
      firstDifference(
        await render(withBed),
        take.map((value, i) => value + music[i]),
      ),
    ).toBe(-1);
  });
});
