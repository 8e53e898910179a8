import { prompts, promptRateHz } from '../testing/prompts';
import { altered } from '../testing/rereadings';
import { concat, noise, add } from '../testing/signals';
import { coefficients, hopSamples, melCepstra } from './cepstra';
import { findTemplate, matchFrom } from './warping';

const readings = prompts('en', 8, 2);
const frameOf = (sample: number) => Math.round(sample / hopSamples);
const search = { highestCost: 7.5, apart: 25, most: 3 };
const withRoom = (audio: Float32Array, seed = 1) => add(audio, noise(audio.length, -62, seed));

describe('cepstra', () => {
  test('one frame every 10 ms; the same sound has the same cepstra wherever it stands', () => {
    const shifted = concat(new Float32Array(100 * hopSamples), readings[0]);
    const first = melCepstra(readings[0]);
    const later = melCepstra(shifted);
    expect(first.length).toBe(Math.floor(readings[0].length / hopSamples) * coefficients);
    for (let frame = 3; frame < 100; frame++)
      for (let k = 0; k < coefficients; k++)
        expect(later[(frame + 100) * coefficients + k]).toBeCloseTo(first[frame * coefficients + k], 3);
  });

  test('silence is the floor in every band, and louder speech differs in little but its level', () => {
    const silent = melCepstra(new Float32Array(1600));
    for (let k = 1; k < coefficients; k++) expect(Math.abs(silent[k])).toBeLessThan(1e-4);
    const quiet = melCepstra(readings[0]);
    const loud = melCepstra(readings[0].map((value) => value * 1.5));
    let level = 0;
    let rest = 0;
    for (let at = 0; at < quiet.length; at++) {
      const difference = Math.abs(loud[at] - quiet[at]);
      if (at % coefficients === 0) level += difference;
      else rest += difference / (coefficients - 1);
    }
    expect(level).toBeGreaterThan(rest);
  });
});

describe('finding a beginning again', () => {
  const pause = new Float32Array(0.8 * promptRateHz);
  const begin = readings[1].slice(0, 1.2 * promptRateHz);
  const again = altered(readings[1], 5);
  const audio = withRoom(concat(pause, begin, pause, again, pause, readings[2], pause));
  const cepstra = melCepstra(audio);
  const a = frameOf(pause.length);
  const b = frameOf(pause.length * 2 + begin.length);
  const end = cepstra.length / coefficients;

  test('the altered reading is the cheapest place, to some hundredths of a second', () => {
    const [best] = findTemplate(cepstra, a, 40, a + 40, end, search);
    expect(Math.abs(best.from - b)).toBeLessThan(8);
    expect(best.cost).toBeLessThan(search.highestCost);
  });

  test('other words are dearer, and hits stand apart', () => {
    const hits = findTemplate(cepstra, a, 40, a + 40, end, { ...search, highestCost: 20, most: 5 });
    expect(hits.slice(1).every(({ cost }) => cost > hits[0].cost * 1.3)).toBe(true);
    hits.forEach((hit, index) =>
      hits
        .slice(index + 1)
        .forEach((other) => expect(Math.abs(hit.from - other.from)).toBeGreaterThanOrEqual(25)),
    );
  });

  test('the two go on together as far as the first one went, at most through its pause', () => {
    const match = matchFrom(cepstra, a, b, 400, search.highestCost);
    expect(match.length).toBeGreaterThan(frameOf(begin.length) - 10);
    expect(match.length).toBeLessThanOrEqual(frameOf(begin.length + pause.length));
    expect(match.cost).toBeLessThan(search.highestCost);
  });

  test('different words part at once; nothing to look in gives nothing', () => {
    const other = frameOf(pause.length * 3 + begin.length + again.length);
    expect(matchFrom(cepstra, a, other, 400, 5).length).toBeLessThan(40);
    expect(findTemplate(cepstra, a, 40, end, end, search)).toEqual([]);
    expect(matchFrom(cepstra, a, a, 400, 5)).toMatchObject({ length: 0 });
  });
});
