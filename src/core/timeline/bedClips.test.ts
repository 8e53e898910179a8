import { seededRandom } from '../base/random';
import { findLoopSeam } from '../dsp/loopSeam';
import { audioPiece } from '../testing/naiveTimeline';
import { memorySources, plainClip } from '../testing/mixing';
import { firstDifference, noise } from '../testing/signals';
import { seeds } from '../testing/seeds';
import { addClip } from './bedRender';
import type { Clip, Moment } from './bedClips';
import { heardMoment, overhang, placedClips } from './bedTime';
import { addMark, closeUp, insertTime, removeMark, removeTime, stet, strike } from './edits';
import { heardTable } from './heard';
import { addBed, withWords } from './mixEdits';
import { slidePassage } from './passages';
import { PieceTable } from './pieces';
import { clockOf, emptyTimeline, sheetFramesOf, type Timeline } from './timeline';

const length = 1000;
const voice = (): Timeline => {
  const bare = emptyTimeline(['Voice']);
  return { ...bare, tracks: [{ ...bare.tracks[0], table: PieceTable.of([audioPiece('voice', 0, length)]) }] };
};
const withClips = (timeline: Timeline, ...clips: Clip[]) =>
  addBed(timeline, { id: 'bed', name: 'Music', clips });
const placed = (timeline: Timeline) => placedClips(timeline)[0];
const from = (moment: Moment, after = 0): Partial<Clip> => ({ begin: { moment, after } });

describe('a clip holds on to', () => {
  const marked = addMark(voice(), { id: 'm', kind: 'note', at: 400, length: 0, name: 'Song' });
  const lined = addMark(marked, { id: 'l', kind: 'line', at: 300, length: 0, name: '', line: 'first' });

  test.each<[string, Partial<Clip>, number]>([
    ['the start', from({ kind: 'start' }, 20), 20],
    ['the end', from({ kind: 'end' }, -30), 970],
    ['a mark', from({ kind: 'mark', mark: 'm', at: 0 }, -50), 350],
    ['a line of the script', from({ kind: 'line', line: 'first', at: 0 }), 300],
    ['a place', from({ kind: 'place', at: 600 }), 600],
    ['the first word', from({ kind: 'firstWord' }, -100), 110 - 100],
    ['the last word', from({ kind: 'lastWord' }, 40), 900 + 40],
  ])('%s', (_, begin, at) => {
    const timeline = withWords(withClips(lined, plainClip('music', 100, begin)), { first: 110, last: 900 });
    expect(placed(timeline)[0]).toMatchObject({ at, frames: 100, lost: [] });
  });

  test('the end of another clip, and ends where it is told', () => {
    const intro = plainClip('intro', 200, { id: 'intro' });
    const under = plainClip('under', 5000, {
      ...from({ kind: 'clip', clip: 'intro', at: 0 }, -20),
      end: { moment: { kind: 'mark', mark: 'm', at: 0 }, after: 60 },
    });
    const [, second] = placed(withClips(marked, intro, under));
    expect(second).toMatchObject({ at: 180, frames: 280, loop: null });
  });

  test('nothing that is gone: it stays where that was, and says so', () => {
    const timeline = withClips(
      marked,
      plainClip('music', 100, from({ kind: 'mark', mark: 'm', at: 400 }, 5)),
      plainClip('other', 100, from({ kind: 'clip', clip: 'none', at: 70 })),
      plainClip('third', 100, from({ kind: 'firstWord' })),
    );
    const cut = removeMark(removeTime(timeline, { from: 0, to: 50 }), 'm');
    expect(placed(cut)).toMatchObject([
      { at: 355, lost: ['mark'] },
      { at: 20, lost: ['clip'] },
      { at: 0, lost: ['words'] },
    ]);
  });

  test('no circle: clips that hold on to each other stay where they were', () => {
    const timeline = withClips(
      voice(),
      plainClip('a', 100, { id: 'a', ...from({ kind: 'clip', clip: 'b', at: 30 }) }),
      plainClip('b', 100, { id: 'b', ...from({ kind: 'clip', clip: 'a', at: 60 }) }),
    );
    expect(placed(timeline).map(({ at }) => at)).toEqual([160, 60]);
  });

  test('a word that is struck: it stands at the joint, and says so', () => {
    const timeline = withClips(
      strike(marked, { from: 390, to: 450 }),
      plainClip('music', 100, from({ kind: 'mark', mark: 'm', at: 400 })),
    );
    expect(placed(timeline)[0]).toMatchObject({ at: 390, struck: true, lost: [] });
  });
});

test('what reaches out of the part is told, and is not heard', () => {
  const timeline = withClips(
    voice(),
    plainClip('music', 300, from({ kind: 'start' }, -80)),
    plainClip('outro', 300, from({ kind: 'end' }, -100)),
  );
  expect(overhang(timeline)).toEqual({ before: 80, after: 200 });
  expect(overhang(voice())).toEqual({ before: 0, after: 0 });
  expect(heardMoment(timeline, { moment: { kind: 'end' }, after: -5 })).toBe(995);
});

/** One random edit of time, of those the hand makes. */
function randomEdit(timeline: Timeline, random: () => number): Timeline {
  const end = sheetFramesOf(timeline);
  const pick = () => Math.floor(random() * (end + 1));
  const [a, b] = [pick(), pick()].sort((x, y) => x - y);
  const range = { from: a, to: Math.min(b, a + 90) };
  switch (Math.floor(random() * 6)) {
    case 0:
      return strike(timeline, range);
    case 1:
      return stet(timeline, range);
    case 2:
      return closeUp(timeline, range);
    case 3:
      return removeTime(timeline, range);
    case 4:
      return insertTime(timeline, a, 1 + Math.floor(random() * 60));
    default:
      return slidePassage(timeline, range, Math.floor(random() * 120) - 60);
  }
}

/** Heard frame at which a frame of the recording is heard; −1 where it is not. */
function heardAt(timeline: Timeline, frame: number): number {
  const table = heardTable(timeline.tracks[0].table, clockOf(timeline));
  const index = table.pieces.findIndex(
    (piece) => piece.kind === 'audio' && frame >= piece.from && frame < piece.from + piece.length,
  );
  const piece = table.pieces[index];
  return piece?.kind === 'audio' ? table.startOf(index) + frame - piece.from : -1;
}

test.each(seeds(40))('the music never moves against its word, whatever is edited: seed %i', async (seed) => {
  const random = seededRandom(seed + 100);
  const words = [200, 500, 800];
  const music = noise(400, -20, 9);
  const sources = memorySources({ music: [music] });
  const clips = words.map((word, index) =>
    plainClip('music', 60, {
      id: `clip-${index}`,
      ...from(
        index === 2 ? { kind: 'place', at: word } : { kind: 'mark', mark: `m${word}`, at: word },
        30 * index - 20,
      ),
    }),
  );
  let timeline = withClips(
    words.reduce(
      (before, at) => addMark(before, { id: `m${at}`, kind: 'note', at, length: 0, name: '' }),
      voice(),
    ),
    ...clips,
  );
  let compared = 0;
  for (let round = 0; round < 12; round++) {
    timeline = randomEdit(timeline, random);
    for (const [index, word] of words.entries()) {
      const heard = heardAt(timeline, word);
      if (heard < 0) continue;
      compared++;
      const clip = placed(timeline)[index];
      expect(clip.at - heard).toBe(30 * index - 20);
      const output = new Float32Array(60);
      await addClip({ ...clip }, clip.at, [output], sources);
      expect(firstDifference(output, music.slice(0, 60))).toBe(-1);
    }
  }
  expect(compared).toBeGreaterThan(0);
});

describe('a loop', () => {
  const rateHz = 48_000;

  /** A figure of five tones that comes again and again, with a little noise on it. */
  function music(seconds: number): Float32Array {
    const figure = [0, 4, 7, 12, 7].map((step) => 220 * 2 ** (step / 12));
    const note = 0.6 * rateHz;
    const hiss = noise(Math.round(seconds * rateHz), -70, 5);
    const { sin, exp } = Math;
    return Float32Array.from({ length: Math.round(seconds * rateHz) }, (_, i) => {
      const inNote = i % note;
      const tone = figure[Math.floor(i / note) % figure.length];
      return 0.2 * sin((2 * Math.PI * tone * inNote) / rateHz) * exp(-inNote / 9000) + hiss[i];
    });
  }

  test('goes round by whole figures of the music, to the sample, and nothing is heard of the seam', async () => {
    const figureFrames = 5 * 0.6 * rateHz;
    const samples = music(14.3);
    const margin = 2400;
    const seam = findLoopSeam(samples, rateHz, margin);
    expect(seam).not.toBeNull();
    if (!seam) return;
    expect((seam.to - seam.from) % figureFrames).toBe(0);
    expect(seam.likeness).toBeGreaterThan(0.99);
    // Longer rounds before shorter ones: four figures are the most that could be had.
    expect((seam.to - seam.from) / figureFrames).toBe(4);
    const loop = { from: seam.from, to: seam.to, fadeFrames: margin, shape: 'smooth' as const };
    const clip = { ...plainClip('m', samples.length, { loop }), at: 0, frames: 40 * rateHz };
    const looped = new Float32Array(clip.frames);
    await addClip(clip, 0, [looped], memorySources({ m: [samples] }));
    const endless = music(40);
    let error = 0;
    let power = 0;
    for (let i = 0; i < endless.length; i++) {
      error += (looped[i] - endless[i]) ** 2;
      power += endless[i] ** 2;
    }
    // What is left is the hiss, which is another one after the seam.
    expect(10 * Math.log10(error / power)).toBeLessThan(-40);
  });

  test('of rain keeps its level over the seam', async () => {
    const rain = noise(8 * rateHz, -30, 11);
    const margin = 0.4 * rateHz;
    const seam = findLoopSeam(rain, rateHz, margin);
    if (!seam) throw new Error('No seam was found');
    expect(seam.likeness).toBeLessThan(0.5);
    const loop = { from: seam.from, to: seam.to, fadeFrames: margin, shape: 'power' as const };
    const clip = { ...plainClip('m', rain.length, { loop }), at: 0, frames: 12 * rateHz };
    const looped = new Float32Array(clip.frames);
    await addClip(clip, 0, [looped], memorySources({ m: [rain] }));
    for (let at = 0; at + 4800 <= looped.length; at += 4800) {
      const power = looped.subarray(at, at + 4800).reduce((sum, value) => sum + value ** 2, 0) / 4800;
      expect(Math.abs(10 * Math.log10(power) + 30)).toBeLessThan(1);
    }
  });

  test('is not looked for in less than a moment', () => {
    expect(findLoopSeam(noise(20_000, -20, 1), rateHz, 2400)).toBeNull();
  });
});
