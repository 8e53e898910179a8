import { TimeStretch } from '../dsp/timeStretch';
import { promptRateHz, prompts } from '../testing/prompts';
import { concat, noise } from '../testing/signals';
import { offGuide, spokenIn, turnsIn } from './againstGuide';
import { fitPieces, planFit } from './fitting';

const rate = promptRateHz;
/** Of 5 ms. */
const step = rate / 200;
const stepSeconds = step / rate;

function levels(audio: Float32Array): Float32Array {
  return Float32Array.from({ length: Math.floor(audio.length / step) }, (_, i) => {
    let sum = 0;
    for (let j = i * step; j < (i + 1) * step; j++) sum += audio[j] ** 2;
    return sum / step;
  });
}

function slower(audio: Float32Array, speed: number): Float32Array {
  const stretch = new TimeStretch(rate, 1, speed);
  return concat(stretch.process([audio])[0], stretch.flush()[0]).subarray(
    0,
    Math.round(audio.length / speed),
  );
}

/** A line that begins so late after a second of room, at a level, in a room of its own. */
function placed(line: Float32Array, lateSeconds: number, gain: number, roomDb: number, seed: number) {
  const audio = noise(Math.round((4 + lateSeconds) * rate) + line.length, roomDb, seed);
  const at = Math.round((1 + lateSeconds) * rate);
  line.forEach((value, i) => (audio[at + i] += value * gain));
  return audio;
}

const lines = (['en', 'fr', 'it'] as const).flatMap((voice) => prompts(voice, 6, 1.2));

describe('a take against its guide', () => {
  test.each([-0.18, -0.06, 0, 0.04, 0.25])(
    'begins %s s late: told to 20 ms, whatever its level and room',
    (late) => {
      for (const [index, line] of lines.entries()) {
        const guide = levels(placed(line, 0, 1, -60, index));
        const take = levels(placed(line, late, 0.3, -58, 100 + index));
        const off = offGuide(take, guide, stepSeconds);
        expect(off).not.toBeNull();
        expect(Math.abs((off?.late ?? 9) * stepSeconds - late)).toBeLessThan(0.02);
        expect(Math.abs((off?.long ?? 9) * stepSeconds)).toBeLessThan(0.04);
      }
    },
  );

  test.each([0.9, 1.08])('spoken at %s of its speed: told how much too long, to 30 ms', (speed) => {
    for (const [index, line] of lines.entries()) {
      const changed = slower(line, speed);
      const off = offGuide(
        levels(placed(changed, 0.1, 0.5, -60, index)),
        levels(placed(line, 0, 1, -60, 50 + index)),
        stepSeconds,
      );
      const wanted = (changed.length - line.length) / rate;
      expect(Math.abs((off?.late ?? 9) * stepSeconds - 0.1)).toBeLessThan(0.02);
      expect(Math.abs((off?.long ?? 9) * stepSeconds - wanted)).toBeLessThan(0.03);
    }
  });

  test('of silence, and of a room alone, nothing is told', () => {
    const guide = levels(placed(lines[0], 0, 1, -60, 1));
    expect(offGuide(new Float32Array(500), guide, stepSeconds)).toBeNull();
    expect(offGuide(levels(noise(3 * rate, -50, 3)), guide, stepSeconds)).toBeNull();
    expect(offGuide(guide, new Float32Array(0), stepSeconds)).toBeNull();
    expect(spokenIn(new Float32Array(100), stepSeconds)).toBeNull();
  });

  test('turns of a conversation are told apart by the silences between them', () => {
    const gap = (seconds: number) => new Float32Array(Math.round(seconds * rate));
    const said = [lines[0], lines[7], lines[13]];
    const audio = placed(concat(said[0], gap(0.9), said[1], gap(0.8), said[2]), 0, 1, -65, 3);
    const turns = turnsIn(levels(audio), stepSeconds).map(({ from, to }) => [
      from * stepSeconds,
      to * stepSeconds,
    ]);
    let at = 1;
    const wanted = said.map((line, index) => {
      const from = at;
      at += line.length / rate + [0.9, 0.8, 0][index];
      return [from, from + line.length / rate];
    });
    expect(turns).toHaveLength(3);
    turns.forEach(([from, to], index) => {
      expect(Math.abs(from - wanted[index][0])).toBeLessThan(0.1);
      expect(Math.abs(to - wanted[index][1])).toBeLessThan(0.15);
    });
    expect(turnsIn(levels(noise(2 * rate, -60, 5)), stepSeconds)).toEqual([]);
  });

  test('pauses between words are found, stops within them are not', () => {
    const gap = (seconds: number) => new Float32Array(Math.round(seconds * rate));
    const audio = placed(concat(lines[0], gap(0.4), lines[1]), 0, 1, -70, 8);
    const spoken = spokenIn(levels(audio), stepSeconds);
    const wanted = (1 * rate + lines[0].length) / step;
    const found = spoken?.pauses.find(({ from, to }) => from <= wanted + 20 && to >= wanted + 60);
    expect(found).toBeDefined();
    expect(Math.abs((spoken?.from ?? 0) * stepSeconds - 1)).toBeLessThan(0.08);
  });
});

describe('fitting', () => {
  const spoken = {
    from: 1000,
    to: 11_000,
    pauses: [
      { from: 3000, to: 4000 },
      { from: 6000, to: 6500 },
    ],
  };
  const limits = { stretch: 0.08, pauseFrames: 200 };
  const lengthOf = (long: number, more = limits) => {
    const plan = planFit(spoken, long, more);
    const pieces = fitPieces(spoken, plan, Math.round(12_000 / plan.speed));
    const frames = pieces.reduce(
      (sum, piece) => sum + (piece.kind === 'room' ? piece.frames : piece.to - piece.from),
      0,
    );
    return { plan, pieces, frames };
  };

  test('what is a little too long is taken out of the pauses alone, in proportion', () => {
    const { plan, pieces, frames } = lengthOf(550);
    expect(plan).toEqual({ pauses: [-400, -150], speed: 1, restFrames: 0 });
    expect(frames).toBe(12_000 - 550);
    expect(pieces).toEqual([
      { kind: 'take', from: 0, to: 3300 },
      { kind: 'take', from: 3700, to: 6175 },
      { kind: 'take', from: 6325, to: 12_000 },
    ]);
  });

  test('what is too short gets its pauses lengthened, filled with room', () => {
    const { plan, pieces, frames } = lengthOf(-750);
    expect(plan).toEqual({ pauses: [500, 250], speed: 1, restFrames: 0 });
    expect(frames).toBe(12_750);
    expect(pieces.filter(({ kind }) => kind === 'room')).toEqual([
      { kind: 'room', frames: 500 },
      { kind: 'room', frames: 250 },
    ]);
  });

  test('only then it is faster or slower, up to the limit; what is left over is told', () => {
    const { plan } = lengthOf(1500);
    expect(plan.pauses).toEqual([-800, -300]);
    expect(plan.speed).toBeCloseTo(8900 / 8500, 9);
    expect(plan.restFrames).toBe(0);
    const far = lengthOf(4000).plan;
    expect(far.speed).toBe(1.08);
    expect(far.restFrames).toBe(Math.round(8900 / 1.08 - 6000));
    const slow = lengthOf(-4000).plan;
    expect(slow.pauses).toEqual([1000, 500]);
    expect(slow.speed).toBe(0.92);
    expect(slow.restFrames).toBe(Math.round(11_500 / 0.92 - 14_000));
    expect(lengthOf(1500, { ...limits, stretch: 0 }).plan).toMatchObject({ speed: 1, restFrames: 400 });
  });

  test('where nothing is to be done nothing is', () => {
    expect(lengthOf(0).pieces).toEqual([{ kind: 'take', from: 0, to: 12_000 }]);
    expect(planFit({ from: 0, to: 100, pauses: [] }, 0, limits)).toEqual({
      pauses: [],
      speed: 1,
      restFrames: 0,
    });
  });
});
