import { usualStep } from '../chain/settings';
import type { Chain, ChainStep } from '../chain/chain';
import { filesOfPart, type DeliveredSound } from '../delivery/partFiles';
import { builtInSpecs, findSpec } from '../specs/builtIn';
import type { Spec } from '../specs/spec';
import { memorySources } from '../testing/mixing';
import { through } from '../testing/chains';
import { audioPiece } from '../testing/naiveTimeline';
import { firstDifference, noise } from '../testing/signals';
import { addGuide } from './guides';
import { apply, difference, inverse, isEmpty } from './history';
import { changeChain, changeStrip, otherSide, stripOf } from './mixEdits';
import { PartRenderer } from './partRenderer';
import { PieceTable } from './pieces';
import { sameSounding, soundingOf, type Sounding } from './sounding';
import { loadTimeline, storeTimeline } from './stored';
import { emptyStaves, type Side, type Timeline } from './timeline';

const rateHz = 48_000;
const settings = { joins: { joinFrames: 480 }, rateHz };
const length = 4 * rateHz;
const audio = { a: noise(length, -20, 1), b: noise(length, -30, 2) };
const sources = memorySources({ a: [audio.a], b: [audio.b] });

function part(...sides: (Side | undefined)[]): Timeline {
  const staves = (sides.length === 0 ? [undefined] : sides).map((side, index) => ({
    id: index === 0 ? 'a' : 'b',
    name: `Voice ${index + 1}`,
    ...(side && { side }),
  }));
  const empty = emptyStaves(staves);
  return {
    ...empty,
    tracks: empty.tracks.map((track) => ({
      ...track,
      table: PieceTable.of([audioPiece(track.id, 0, length)]),
    })),
  };
}

const even: ChainStep = { ...usualStep('even', '1'), thresholdDb: -34, ratio: 6, detector: 'peak' };
const rumble = usualStep('rumble', '2');
const chain: Chain = { name: 'Test', steps: [rumble, even] };
const withChain = (timeline = part(), one: Chain = chain) => changeChain(timeline, 'a', one);
const render = (sounding: Sounding, frames = length, from = 0) =>
  new PartRenderer(sounding, sources).mix('playing', from, frames);
const of = (timeline: Timeline, dry = false) => soundingOf(timeline, { ...settings, dry });

test('a voice goes through its chain before its level, whatever is asked for of it', async () => {
  const timeline = changeStrip(withChain(), 'a', { levelDb: -6.0206 });
  const [whole] = await render(of(timeline));
  const alone = await through(audio.a, chain.steps, rateHz);
  const half = alone.map((sample) => sample * 10 ** (-6.0206 / 20));
  expect(firstDifference(whole, half)).toBe(-1);
  const [part1] = await render(of(timeline), 1000, 123_456);
  expect(firstDifference(part1, whole.slice(123_456, 124_456))).toBe(-1);
});

test('a chain whose steps are off, or that has none, is no chain at all', async () => {
  const off = withChain(part(), { name: '', steps: chain.steps.map((step) => ({ ...step, on: false })) });
  expect(sameSounding(of(off), of(part()))).toBe(true);
  const [plain] = await render(of(off));
  expect(firstDifference(plain, audio.a)).toBe(-1);
  const none = changeChain(withChain(), 'a', { name: 'Test', steps: [] });
  expect(none.mix).toBeUndefined();
});

test('what is taken away and what is left are the recording together', async () => {
  const sounding = of(withChain());
  const taken = {
    ...sounding,
    tracks: sounding.tracks.map((track) => ({
      ...track,
      strip: track.strip && { ...track.strip, taken: true as const },
    })),
  };
  const [[left], [away]] = [await render(sounding), await render(taken)];
  let worst = 0;
  for (let i = 0; i < length; i++) worst = Math.max(worst, Math.abs(left[i] + away[i] - audio.a[i]));
  expect(worst).toBeLessThan(1e-6);
  expect(away.some((sample) => Math.abs(sample) > 0.01)).toBe(true);
});

test('the sides of a pair have one chain and are turned down together', async () => {
  const pair = withChain(part('left', 'right'));
  expect(otherSide(pair, 'b')).toBe('a');
  expect(stripOf(pair, 'b').chain).toEqual(chain);
  const [left, right] = await render(of(pair));
  // The faint side would not be turned down by itself: its peaks stay under the knee.
  const alone = await through(audio.b, chain.steps, rateHz);
  const power = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
  expect(10 * Math.log10(power(right) / power(alone))).toBeLessThan(-4);
  const ratio = power(left) / power(right);
  expect(10 * Math.log10(ratio)).toBeCloseTo(10, 0);
  // Both lose it together.
  const without = changeChain(pair, 'b', undefined);
  expect(stripOf(without, 'a').chain).toBeUndefined();
});

test('a track without a side has no other one', () => {
  expect(otherSide(part(undefined, undefined), 'a')).toBeNull();
  expect(otherSide(part('left', undefined), 'a')).toBeNull();
});

function delivered(timeline: Timeline, what: DeliveredSound, spec: Spec) {
  const project = { name: 'P', createdAt: 0, date: '2026-11-27', sources: [], settings, spec };
  const texts = { marksCsv: false, marksVtt: false, script: false };
  const options = { what, format: null, naming: null, cover: null, ...texts };
  const one = { id: 'p', name: 'Part', script: [], number: 1, of: 1, timeline, selection: null };
  return filesOfPart(one, project, options);
}

test('the sides of a pair are turned down together where one is heard alone, and in any file', async () => {
  const pair = withChain(part('left', 'right'));
  const [left, right] = await render(of(pair));
  const [soloLeft, soloRight] = await render(soundingOf(pair, settings, (id) => id === 'b'));
  expect(firstDifference(soloRight, right)).toBe(-1);
  expect(soloLeft.every((sample) => sample === 0)).toBe(true);

  const each = delivered(pair, 'each', builtInSpecs[0]);
  expect(each).toHaveLength(2);
  for (const [index, side] of [left, right].entries()) {
    const [file] = await new PartRenderer(each[index].file.sounding, sources).mix(
      { delivering: 1 },
      0,
      length,
    );
    expect(firstDifference(file, side)).toBe(-1);
  }

  const pieces = [audioPiece('a', 0, length)];
  const guided = addGuide(pair, { id: 'guide', name: 'Guide', pieces });
  const [beside] = delivered(guided, 'beside', builtInSpecs[0]);
  const [guide, voices] = await new PartRenderer(beside.file.sounding, sources).mix(
    { delivering: 2 },
    0,
    length,
  );
  expect(firstDifference(guide, audio.a)).toBe(-1);
  let worst = 0;
  voices.forEach((sample, i) => (worst = Math.max(worst, Math.abs(sample - (left[i] + right[i]) / 2))));
  expect(worst).toBeLessThan(1e-6);
});

test('a client who wants the voice unprocessed has it without its chain, in every kind of file', () => {
  const dry = findSpec('Dry voice') ?? builtInSpecs[0];
  for (const what of ['mix', 'voices', 'each'] as const) {
    for (const [spec, wanted] of [
      [dry, false],
      [builtInSpecs[0], true],
    ] as const) {
      const files = delivered(withChain(part(undefined, undefined)), what, spec);
      expect(files.some(({ file }) => file.sounding.tracks.some(({ strip }) => strip?.chain))).toBe(wanted);
      // The report says either.
      expect(files[0].file.chains?.join()).toMatch(wanted ? /^Voice 1 \(“Test”\): Takes off/ : /left out/);
    }
  }
});

test('a chain is stored, and is a step that can be undone and done again', () => {
  const [before, after] = [part(), withChain()];
  expect(loadTimeline(structuredClone(storeTimeline(after))).mix).toEqual(after.mix);
  const step = difference(before, after);
  expect(isEmpty(step)).toBe(false);
  expect(apply(before, step).mix).toEqual(after.mix);
  expect(apply(after, inverse(step)).mix).toBeUndefined();
  const changed = withChain(after, { ...chain, steps: [rumble, { ...even, ratio: 2 }] });
  expect(isEmpty(difference(after, changed))).toBe(false);
});

test('a renderer takes over what an earlier one has made, and sounds as if made anew', async () => {
  const earlier = new PartRenderer(of(withChain()), sources);
  await earlier.mix('playing', 0, length);
  const changed = of(withChain(part(), { name: '', steps: [rumble, { ...even, ratio: 2 }] }));
  let reads = 0;
  const counting = {
    ...sources,
    read: (...args: Parameters<typeof sources.read>) => (reads++, sources.read(...args)),
  };
  const later = new PartRenderer(changed, counting, earlier);
  const [taken] = await later.mix('playing', 3 * rateHz, rateHz);
  const [anew] = await render(changed, rateHz, 3 * rateHz);
  expect(firstDifference(taken, anew)).toBe(-1);
  expect(reads).toBe(0);
  // Other pieces are another voice.
  const struck = { ...changed, tracks: [{ ...changed.tracks[0], pieces: [audioPiece('b', 0, length)] }] };
  const other = new PartRenderer(struck, counting, earlier);
  const [mixed] = await other.mix('playing', 0, 1000);
  expect(reads).toBeGreaterThan(0);
  expect(firstDifference(mixed, (await render(struck, 1000))[0])).toBe(-1);
});
