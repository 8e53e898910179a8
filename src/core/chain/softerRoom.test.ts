import { powerToDb } from '../base/units';
import { through } from '../testing/chains';
import { voiceAt48 } from '../testing/prompts';
import { roomScore, rooms, type RoomKind } from '../testing/roomScores';
import { noise, sine } from '../testing/signals';
import { gridOf } from './cells';
import { exponentialIntegral, logMmseGain } from './logMmse';
import { powersOfProfile, profileOf, roomPlaces } from './roomProfile';
import { usualStep } from './settings';
import { learnRoom } from './softerRoom';

const rateHz = 48_000;
const grid = gridOf(rateHz);

/** M. Abramowitz, I. A. Stegun, Handbook of Mathematical Functions, table 5.1. */
test.each([
  [0.01, 4.0379296],
  [0.1, 1.822924],
  [0.5, 0.5597736],
  [1, 0.2193839],
  [2, 0.0489005],
  [5, 0.0011483],
])('E₁(%d) is %d', (x, wanted) => {
  expect(Math.abs(exponentialIntegral(x) - wanted)).toBeLessThan(5e-6);
});

test('the gain is that of Ephraim and Malah, equation 20, and between 0 and 1', () => {
  let worst = 0;
  for (let before = -30; before <= 30; before += 1.7) {
    for (let now = -20; now <= 30; now += 1.3) {
      const [xi, gamma] = [10 ** (before / 10), 10 ** (now / 10)];
      const v = (xi / (1 + xi)) * gamma;
      const wanted = Math.min(1, (xi / (1 + xi)) * Math.exp(exponentialIntegral(v) / 2));
      worst = Math.max(worst, Math.abs(20 * Math.log10(logMmseGain(xi, gamma) / wanted)));
    }
  }
  expect(worst).toBeLessThan(0.001);
  expect(logMmseGain(1, 0)).toBe(1);
});

// Chosen on a third voice (June), all but the values of presence, which were set looking at the fan here.
describe.each([
  ['en', [15, 25, 35]],
  ['it', [25]],
] as const)('recorded prompts (%s)', (name, levels) => {
  const voice = voiceAt48(name, 3, 2.5);

  test.each(
    (Object.keys(rooms) as RoomKind[]).flatMap((kind) =>
      levels.map((overDb) => ({ kind, overDb, amountDb: overDb === 25 ? 20 : 10 })),
    ),
  )('in $kind noise $overDb dB under them, $amountDb dB softer', async ({ kind, overDb, amountDb }) => {
    const score = await roomScore(voice, kind, overDb, amountDb);
    expect(Math.abs(score.pausesDb - amountDb)).toBeLessThan(1);
    expect(score.segmentalDb.after).toBeGreaterThan(score.segmentalDb.before);
    if (overDb >= 25) expect(score.bandDb).toBeLessThan(1);
    // No musical noise: what is left moves as the room did, to within what can be told of 0.8 s.
    expect(score.fluctuationDb).toBeLessThan(0.25);
  });

  test('without a room, what is learned from the faintest harms the voice by less than −40 dB', async () => {
    const profile = learnRoom(noise(rateHz, -75, 3), grid);
    const made = await through(voice.audio, [{ ...usualStep('room', 'a'), amountDb: 20, profile }], rateHz);
    const error = made.reduce((sum, sample, i) => sum + (sample - voice.audio[i]) ** 2, 0);
    const power = voice.audio.reduce((sum, sample) => sum + sample ** 2, 0);
    expect(powerToDb(error / power)).toBeLessThan(-40);
  });
});

describe('what is learned of a room', () => {
  test('is its power, bin by bin, and wider further up', () => {
    const profile = learnRoom(noise(4 * rateHz, -50, 5), grid);
    expect(profile.levels).toHaveLength(roomPlaces.length);
    const bins = 513;
    const powers = powersOfProfile(profile, bins, profile.stepHz);
    // The bins of white noise add up to its mean square.
    expect(powerToDb(powers.reduce((sum, power) => sum + power, 0))).toBeCloseTo(-50, 0);
  });

  test('a tone stands where it is', () => {
    const profile = learnRoom(sine(rateHz, 2, 750, -40), grid);
    const loudest = profile.levels.indexOf(Math.max(...profile.levels));
    expect(Math.abs(roomPlaces[loudest] * profile.stepHz - 750)).toBeLessThan(profile.stepHz);
  });

  test('holds at another rate: the same noise, told by wider bins', () => {
    const powers = new Float64Array(600).fill(1e-6);
    const profile = profileOf(powers, 40);
    const wider = powersOfProfile(profile, 400, 60);
    expect(powerToDb(wider[100] / 1e-6)).toBeCloseTo(powerToDb(1.5), 1);
    expect(powerToDb(wider[390] / 1e-6)).toBeCloseTo(powerToDb(1.5), 1);
  });

  test('takes more than four frames of room', () => {
    expect(() => learnRoom(new Float32Array(1000), grid)).toThrow('Too little room tone');
  });
});

test('nothing learned, nothing done', async () => {
  const audio = noise(rateHz, -30, 2);
  expect(await through(audio, [usualStep('room', 'a')], rateHz)).toEqual(audio);
});
