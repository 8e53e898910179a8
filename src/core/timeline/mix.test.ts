import { dbToAmplitude, powerToDb } from '../base/units';
import { seededRandom } from '../base/random';
import { Meter } from '../loudness/measure';
import { audioPiece } from '../testing/naiveTimeline';
import { memorySources, plainClip } from '../testing/mixing';
import { concat, firstDifference, noise, sine } from '../testing/signals';
import { apply, difference, inverse, sourcesOfStep } from './history';
import { allOfIt, placeGains, plainStrip, sameButChains, sameMix, type Mix, type Strip } from './mix';
import {
  addBed,
  addClip,
  changeClip,
  changeStrip,
  removeBed,
  removeClip,
  renameBed,
  stripOf,
} from './mixEdits';
import { PartRenderer } from './partRenderer';
import { timelineOfRange } from './passages';
import { PieceTable, silence } from './pieces';
import { isMixed, sameSounding, soundingOf } from './sounding';
import { loadTimeline, storeTimeline } from './stored';
import { emptyStaves, sourcesOf, type Timeline } from './timeline';
import { removeTrack } from './tracks';

const rateHz = 48_000;
const length = 24_000;
const settings = { joins: { joinFrames: 0 }, rateHz };
const recordings = {
  a: [noise(length, -20, 1)],
  b: [noise(length, -26, 2)],
  music: [noise(length, -18, 3), noise(length, -18, 4)],
};
const sources = memorySources(recordings);

function twoVoices(): Timeline {
  const bare = emptyStaves([
    { id: 'a', name: 'Anna' },
    { id: 'b', name: 'Ben' },
  ]);
  return {
    ...bare,
    tracks: bare.tracks.map((track) => ({
      ...track,
      table: PieceTable.of([audioPiece(track.id, 0, length)]),
    })),
  };
}

const withMusic = (timeline = twoVoices()) =>
  addBed(timeline, {
    id: 'bed',
    name: 'Music',
    clips: [plainClip('music', length, { channels: 2 })],
  });

const rendererOf = (timeline: Timeline, chosen?: (id: string) => boolean) =>
  new PartRenderer(soundingOf(timeline, settings, chosen), sources);
const stereo = (timeline: Timeline) => rendererOf(timeline).mix({ delivering: 2 }, 0, length);
const mono = async (timeline: Timeline) => (await rendererOf(timeline).mix({ delivering: 1 }, 0, length))[0];

function expectSamples(actual: Float32Array, expected: (frame: number) => number) {
  let worst = 0;
  actual.forEach((value, frame) => (worst = Math.max(worst, Math.abs(value - expected(frame)))));
  expect(worst).toBeLessThan(1e-6);
}

describe('levels and places', () => {
  test('are gains: levels in dB, a place by constant power', async () => {
    const mixed = changeStrip(changeStrip(twoVoices(), 'a', { levelDb: -6 }), 'b', {
      place: 0.5,
      levelDb: 3,
    });
    const [left, right] = await stereo(mixed);
    const [a] = recordings.a;
    const [b] = recordings.b;
    // sin and cos of three quarters of a right angle.
    const angle = (0.75 * Math.PI) / 2;
    const gain = dbToAmplitude(3) * Math.SQRT2;
    expectSamples(left, (i) => a[i] * dbToAmplitude(-6) + b[i] * gain * Math.cos(angle));
    expectSamples(right, (i) => a[i] * dbToAmplitude(-6) + b[i] * gain * Math.sin(angle));
    expectSamples(await mono(mixed), (i) => (left[i] + right[i]) / 2);
  });

  test('the law of places: 1 and 1 in the middle, the same power everywhere, nothing on the other side', () => {
    expect(placeGains(0)).toEqual({ left: 1, right: 1 });
    for (const place of [-1, -0.7, -0.2, 0.1, 0.5, 1]) {
      const { left, right } = placeGains(place);
      expect(left ** 2 + right ** 2).toBeCloseTo(2, 12);
    }
    expect(placeGains(-1).right).toBeCloseTo(0, 12);
    expect(placeGains(1).left).toBeCloseTo(0, 12);
    expect(powerToDb(placeGains(1).right ** 2)).toBeCloseTo(3.01, 2);
  });

  // ITU-R BS.1770-5: the powers of left and right are added with equal weights.
  test('a voice is as loud wherever it is put', async () => {
    const voice = sine(rateHz, 3, 997, -20);
    const alone = memorySources({ a: [voice] });
    const part = { ...emptyStaves([{ id: 'a', name: 'Anna' }]) };
    const timeline = {
      ...part,
      tracks: [{ ...part.tracks[0], table: PieceTable.of([audioPiece('a', 0, voice.length)]) }],
    };
    const loudness = async (place: number) => {
      const sounding = soundingOf(changeStrip(timeline, 'a', { place }), settings);
      const meter = new Meter(rateHz, 2);
      meter.process(await new PartRenderer(sounding, alone).mix({ delivering: 2 }, 0, voice.length));
      return meter.finish().integratedLufs ?? NaN;
    };
    const middle = await loudness(0);
    for (const place of [-1, -0.4, 0.8]) expect(await loudness(place)).toBeCloseTo(middle, 3);
  });

  test('all together have a level as well, and points', async () => {
    const points = [
      { at: 0, db: 0 },
      { at: length, db: -20 },
    ];
    const plain = await mono(twoVoices());
    const faded = await mono(changeStrip(twoVoices(), allOfIt, { levelDb: -2, points }));
    expect(20 * Math.log10(faded[12_000] / plain[12_000])).toBeCloseTo(-12, 2);
  });

  test('stay inside their limits, and what does nothing is not kept', () => {
    const timeline = twoVoices();
    expect(stripOf(changeStrip(timeline, 'a', { levelDb: 99, place: -3 }), 'a')).toMatchObject({
      levelDb: 24,
      place: -1,
    });
    expect(changeStrip(timeline, 'a', { levelDb: 0 })).toBe(timeline);
    const back = changeStrip(changeStrip(timeline, 'a', { levelDb: 3 }), 'a', { levelDb: 0 });
    expect(back).toEqual(timeline);
    expect('mix' in back).toBe(false);
  });

  test('nothing in the mix: the samples of the recordings, to the last bit', async () => {
    const one = { ...twoVoices(), tracks: twoVoices().tracks.slice(0, 1) };
    expect(firstDifference(await mono(one), recordings.a[0])).toBe(-1);
    expect(isMixed(soundingOf(one, settings))).toBe(false);
    expect((await rendererOf(one).mix('playing', 0, 10)).length).toBe(1);
  });
});

describe('a bed', () => {
  test('lies under the voices, its two channels kept', async () => {
    const [left, right] = await stereo(withMusic());
    const [a] = recordings.a;
    const [b] = recordings.b;
    expectSamples(left, (i) => a[i] + b[i] + recordings.music[0][i]);
    expectSamples(right, (i) => a[i] + b[i] + recordings.music[1][i]);
    expectSamples(await mono(withMusic()), (i) => (left[i] + right[i]) / 2);
  });

  test('one in mono keeps a part of voices in the middle mono', async () => {
    const timeline = addBed(twoVoices(), { id: 'bed', name: 'Rain', clips: [plainClip('a', length)] });
    expect(await rendererOf(timeline).mix('playing', 0, 10)).toHaveLength(1);
  });

  test('any chunks give the same samples, with levels, places, fades and a loop', async () => {
    const loop = { from: 5000, to: 11_000, fadeFrames: 500, shape: 'power' as const };
    const looped = plainClip('music', 12_000, {
      channels: 2,
      begin: { moment: { kind: 'start' }, after: 3000 },
      end: { moment: { kind: 'end' }, after: -100 },
      fadeIn: 900,
      fadeOut: 1500,
      loop,
    });
    const points = [
      { at: 4000, db: 0 },
      { at: 9000, db: -15 },
    ];
    const bed = addBed(twoVoices(), { id: 'bed', name: 'Music', clips: [looped] });
    const mixed = changeStrip(changeStrip(bed, 'bed', { points, place: -0.3 }), 'a', {
      levelDb: 2,
      place: 0.4,
    });
    const part = rendererOf(mixed);
    const [left, right] = await part.mix({ delivering: 2 }, 0, length);
    const random = seededRandom(8);
    const pieces: Float32Array[][] = [];
    for (let at = 0; at < length;) {
      const frames = Math.min(length - at, 1 + Math.floor(random() * 2500));
      pieces.push(await part.mix({ delivering: 2 }, at, frames));
      at += frames;
    }
    expect(firstDifference(concat(...pieces.map(([one]) => one)), left)).toBe(-1);
    expect(firstDifference(concat(...pieces.map(([, other]) => other)), right)).toBe(-1);
  });

  test('what is chosen of a part: a bed alone is as long as the part, and voices go without it', async () => {
    const alone = await rendererOf(withMusic(), (id) => id === 'bed').mix({ delivering: 2 }, 0, length);
    expect(firstDifference(alone[1], recordings.music[1])).toBe(-1);
    const voices = soundingOf(withMusic(), settings, (id) => id !== 'bed');
    expect(sameSounding(voices, soundingOf(twoVoices(), settings))).toBe(true);
  });

  test('its sources are the part’s, and those of the steps that brought it', () => {
    expect([...sourcesOf(withMusic())].sort()).toEqual(['a', 'b', 'music']);
    const step = { label: 'bed', difference: difference(twoVoices(), withMusic()) };
    expect([...sourcesOfStep(step)]).toEqual(['music']);
  });
});

test('changes of a mix are steps that can be undone, and stored', () => {
  const before = withMusic();
  const clip = plainClip('music', 500, { id: 'second' });
  const after = changeClip(
    addClip(renameBed(changeStrip(before, 'bed', { levelDb: -9 }), 'bed', 'Theme'), 'bed', clip),
    'second',
    { levelDb: -3 },
  );
  const change = difference(before, after);
  expect(apply(before, change)).toEqual(after);
  expect(apply(after, inverse(change))).toEqual(before);
  expect(difference(before, withMusic()).mix).toBeNull();
  expect(loadTimeline(structuredClone(storeTimeline(after)))).toEqual(after);
  expect(removeClip(after, 'second').mix?.beds[0].clips).toHaveLength(1);
  expect(sameMix(removeClip(after, 'second').mix, after.mix)).toBe(false);
  expect(removeBed(after, 'bed')).toEqual(twoVoices());
});

test('a passage that becomes a part of its own keeps the levels of its voices, and a track that goes takes its own', () => {
  const points = [
    { at: 1000, db: 0 },
    { at: 3000, db: -10 },
  ];
  const mixed = changeStrip(changeStrip(withMusic(), 'a', { levelDb: -4, points }), 'bed', { levelDb: 3 });
  const { mix } = timelineOfRange(mixed, { from: 2000, to: 5000 });
  expect(mix?.beds).toEqual([]);
  expect(mix?.strips.map(({ id, levelDb }) => [id, levelDb])).toEqual([['a', -4]]);
  expect(mix?.strips[0].points.slice(0, 2)).toEqual([
    { at: 0, db: -5 },
    { at: 1000, db: -10 },
  ]);
  expect(removeTrack(mixed, 'a').mix?.strips.map(({ id }) => id)).toEqual(['bed']);
});

test('a bed of three hours is what stands in it, to its end, and costs no more than what is read of it', async () => {
  const hours = 3 * 3600 * rateHz;
  const sampleAt = (frame: number, channel: number) => (((frame * 7919) % 4096) + channel) / 8192;
  let read = 0;
  const endless = {
    lengthOf: () => hours,
    read: (
      _: string,
      channel: number,
      from: number,
      frames: number,
      output: Float32Array,
      offset: number,
    ) => {
      read += frames;
      for (let i = 0; i < frames; i++) output[offset + i] = sampleAt(from + i, channel);
      return Promise.resolve();
    },
  };
  const bare = emptyStaves([{ id: 'a', name: 'Anna' }]);
  const empty: Timeline = {
    ...bare,
    tracks: [{ ...bare.tracks[0], table: PieceTable.of([silence(hours)]) }],
  };
  const long = addBed(empty, { id: 'bed', name: 'Sea', clips: [plainClip('sea', hours, { channels: 2 })] });
  const renderer = new PartRenderer(soundingOf(long, settings), endless);
  const from = hours - 10_000;
  const [left, right] = await renderer.mix({ delivering: 2 }, from, 10_000);
  expect(left.findIndex((value, i) => value !== sampleAt(from + i, 0))).toBe(-1);
  expect(right.findIndex((value, i) => value !== sampleAt(from + i, 1))).toBe(-1);
  expect(read).toBeLessThan(200_000);
});

test('mixes that differ in nothing but chains are told apart from those that differ in levels', () => {
  const strip = { ...plainStrip('a'), levelDb: -3 };
  const chain = { name: 'One', steps: [] };
  const of = (...strips: Strip[]): Mix => ({ beds: [], strips });
  expect(sameButChains(of(strip), of({ ...strip, chain }))).toBe(true);
  expect(sameButChains(of({ ...plainStrip('a'), chain }), undefined)).toBe(true);
  expect(sameButChains(of(strip), of({ ...strip, levelDb: -4, chain }))).toBe(false);
  expect(sameButChains(of(strip), of({ ...strip, points: [{ at: 5, db: 1 }] }))).toBe(false);
  const bed = { id: 'bed', name: 'Sea', clips: [] };
  expect(sameButChains({ beds: [bed], strips: [] }, of())).toBe(false);
});
