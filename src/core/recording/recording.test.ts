import { dbToAmplitude } from '../base/units';
import { add, concat, noise, sine } from '../testing/signals';
import { prompts, promptRateHz } from '../testing/prompts';
import { hum, room } from '../testing/sounds';
import { adviseOn, adviseToMatch, compareChecks } from './advice';
import { inputWarnings } from './inputAdvice';
import { levelProfiles } from './levelProfiles';
import { findLoopback, loopbackSignal } from './loopback';
import { findHum, measureSoundCheck, toneBandsHz } from './soundCheck';

const rateHz = promptRateHz;
const spoken = concat(...prompts('en', 6, 2).flatMap((reading) => [new Float32Array(rateHz * 0.5), reading]));

/** A check with speech, room and hum at known levels: speech at `speechDbfs` RMS while it is spoken. */
function check({ speechDbfs = -20, roomDbfs = -65, humDbfs = -200, loudDb = 6 } = {}) {
  const gain = dbToAmplitude(speechDbfs + 20);
  const quiet = (frames: number, seed: number) =>
    add(room(frames, rateHz, seed, roomDbfs), hum(frames, rateHz, humDbfs));
  const reading = (db: number, seed: number) =>
    add(
      spoken.map((value) => Math.max(-1, Math.min(1, value * gain * dbToAmplitude(db)))),
      quiet(spoken.length, seed),
    );
  return measureSoundCheck(quiet(10 * rateHz, 1), reading(0, 2), reading(loudDb, 3), rateHz);
}

describe('sound check, against readings whose levels are known', () => {
  test.each([
    [-20, -65],
    [-32, -55],
    [-26, -72],
  ])('speech at %d dBFS in a room at %d dBFS', (speechDbfs, roomDbfs) => {
    const measured = check({ speechDbfs, roomDbfs, loudDb: 0 });
    expect(measured.roomDbfs).toBeCloseTo(roomDbfs, 0);
    expect(Math.abs(measured.speechDbfs - speechDbfs)).toBeLessThan(1.5);
    expect(Math.abs(measured.speechToNoiseDb - (speechDbfs - roomDbfs))).toBeLessThan(2);
    expect(measured.hum).toBeNull();
    expect(measured.clippedSamples).toBe(0);
  });

  test.each([50, 60])('hum of %d Hz mains is found with its harmonics and level', (mains) => {
    const silent = add(room(10 * rateHz, rateHz, 5, -65), hum(10 * rateHz, rateHz, -58, mains));
    const found = findHum(silent, rateHz);
    expect(found?.mainsHz).toBe(mains);
    expect(found?.harmonics).toEqual(expect.arrayContaining([1, 2, 3]));
    expect(found?.levelDbfs).toBeCloseTo(-58, 0);
  });

  test('one tone at 300 Hz, which both mains have, is no hum; nor is noise', () => {
    expect(findHum(add(noise(10 * rateHz, -60, 1), sine(rateHz, 10, 300, -50)), rateHz)).toBeNull();
    expect(findHum(noise(10 * rateHz, -50, 2), rateHz)).toBeNull();
    expect(findHum(new Float32Array(rateHz * 2), rateHz)).toBeNull();
  });

  test('DC and clipping are seen', () => {
    const silent = noise(rateHz * 2, -60, 1).map((value) => value + 0.01);
    const loud = spoken.map((value) => Math.max(-1, Math.min(1, value * 20)));
    const measured = measureSoundCheck(silent, silent, loud, rateHz);
    expect(measured.clippedSamples).toBeGreaterThan(10);
    expect(measureSoundCheck(silent, silent, silent, rateHz).dcOffset).toBeCloseTo(0.01, 4);
    // The offset itself is not counted as room.
    expect(measured.roomDbfs).toBeCloseTo(-60, 0);
  });

  test('third-octave bands of white noise rise by 1 dB a band, and together are the whole (IEC 61260-1)', () => {
    const white = noise(rateHz * 5, -20, 4);
    const quiet = noise(rateHz * 2, -90, 4);
    const { tone } = measureSoundCheck(quiet, concat(quiet, white, quiet), white, rateHz);
    const band = toneBandsHz.indexOf(1000);
    expect(tone[band]).toBeCloseTo(10 * Math.log10((1000 * (10 ** 0.05 - 10 ** -0.05)) / (rateHz / 2)), 0);
    expect(tone[band + 5] - tone[band - 5]).toBeCloseTo(10, 0);
  });

  test('a silent stretch too short to be a room is refused', () => {
    expect(() => measureSoundCheck(new Float32Array(100), spoken, spoken, rateHz)).toThrow(RangeError);
  });
});

/** Levels of the trade (common practice): see core/recording/levelProfiles. */
describe('advice', () => {
  const { quiet, noisy, headroom } = levelProfiles;
  const loudestOf = (measured: ReturnType<typeof check>) => measured.loudestPeakDbfs;

  test('too loud and too quiet say how many dB, so that following it lands on target', () => {
    for (const speechDbfs of [-38, -23]) {
      const measured = check({ speechDbfs });
      for (const profile of [quiet, noisy, headroom]) {
        const [text] = adviseOn(measured, profile)
          .map((advice) => advice.text)
          .filter((line) => line.includes('loudest passage'));
        const told = /gain (up|down) about (\d+) dB/.exec(text);
        const change = told ? Number(told[2]) * (told[1] === 'up' ? 1 : -1) : 0;
        const after = loudestOf(measured) + change;
        expect(after).toBeGreaterThan(profile.peakDbfs.min - 1);
        expect(after).toBeLessThanOrEqual(profile.peakDbfs.max);
      }
    }
  });

  test('a clipped passage, a silent microphone and digital silence have to change', () => {
    const clipped = { ...check(), clippedSamples: 12, loudestPeakDbfs: 0 };
    expect(adviseOn(clipped, quiet)[0]).toMatchObject({
      weight: 'must',
      text: expect.stringContaining('clipped'),
    });
    const muted = { ...check(), loudestPeakDbfs: -Infinity, roomDbfs: -Infinity, speechToNoiseDb: NaN };
    const texts = adviseOn(muted, quiet).map(({ text }) => text);
    expect(texts.some((text) => /Nothing was heard/.test(text))).toBe(true);
    expect(texts.some((text) => /digital silence/.test(text))).toBe(true);
  });

  test('speech 9 dB over the room: move closer', () => {
    const near = check({ speechDbfs: -40, roomDbfs: -49 });
    expect(adviseOn(near, quiet).find(({ text }) => /Move closer/.test(text))).toMatchObject({
      weight: 'must',
      text: expect.stringMatching(/speech is (8|9|10) dB over the room/),
    });
  });

  test('hum names its frequencies', () => {
    const texts = adviseOn(check({ humDbfs: -55 }), quiet).map(({ text }) => text);
    expect(texts.find((text) => /mains hum at 50, 100, 150/.test(text))).toBeDefined();
  });

  test('a later session is told how far off it is', () => {
    const reference = check({ speechDbfs: -22 });
    const later = check({ speechDbfs: -27, roomDbfs: -58 });
    const departure = compareChecks(later, reference);
    expect(departure.speechDb).toBeCloseTo(-5, 0);
    expect(departure.roomDb).toBeCloseTo(7, 0);
    const texts = adviseToMatch(departure).map(({ text }) => text);
    expect(texts[0]).toMatch(/5 dB quieter .* gain up about 5 dB/);
    expect(adviseToMatch(compareChecks(reference, reference))[0].weight).toBe('fine');
  });

  test('a tone that has changed is told with its frequency', () => {
    const reference = check();
    const darker = {
      ...reference,
      tone: reference.tone.map((level, band) => (band === 19 ? level - 7 : level)),
    };
    const [advice] = adviseToMatch(
      compareChecks(darker, { ...reference, tone: reference.tone.map((l, b) => (b === 19 ? -20 : l)) }),
    );
    expect(advice.text).toMatch(/less at 7943 Hz/);
  });
});

describe('warnings about an input', () => {
  const good = {
    label: 'USB Microphone',
    rateHz: 48_000,
    channels: 1,
    echoCancellation: false,
    noiseSuppression: false,
    autoGainControl: false,
  };
  const asked = { rateHz: 48_000, channels: 1 };

  test('a plain microphone as asked for: none', () => {
    expect(inputWarnings(good, asked)).toEqual([]);
    expect(inputWarnings({ ...good, rateHz: null, channels: null }, asked)).toEqual([]);
  });

  test.each([
    [{ label: 'Built-in Audio Analog Stereo' }, /computer’s own/],
    [{ label: 'Internal Microphone' }, /computer’s own/],
    [{ label: 'Microphone Array (Realtek)' }, /computer’s own/],
    [{ label: 'Jo’s Headset Hands-Free AG Audio' }, /Bluetooth headset/],
    [{ rateHz: 44_100 }, /runs at 44\.1 kHz, the project at 48 kHz/],
    [{ autoGainControl: true }, /automatic gain/],
  ])('%j', (change, expected) => {
    const warnings = inputWarnings({ ...good, ...change }, asked);
    expect(warnings).toHaveLength(1);
    expect(warnings[0]).toMatch(expected);
  });

  test('an input that the device does not have', () => {
    expect(inputWarnings(good, { ...asked, channels: 3 })[0]).toMatch(/one input, but input 3/);
  });
});

describe('loopback check', () => {
  const rate = 48_000;
  const heard = (delay: number, gain: number, noiseDbfs: number) => {
    const signal = loopbackSignal(rate);
    const captured = noise(signal.length + rate, noiseDbfs, 3);
    signal.forEach((value, i) => (captured[i + delay] += gain * value));
    return captured;
  };

  test.each([
    [0, 1],
    [1, 0.5],
    [953, 0.05],
    [12_345, -0.2],
    [40_000, 0.3],
  ])('a delay of %d frames at a gain of %d is found to the frame', (delay, gain) => {
    expect(findLoopback(heard(delay, gain, -60), rate)?.roundTripFrames).toBe(delay);
  });

  test('nothing comes back: nothing is claimed', () => {
    expect(findLoopback(noise(3 * rate, -40, 9), rate)).toBeNull();
    expect(findLoopback(new Float32Array(3 * rate), rate)).toBeNull();
    expect(findLoopback(new Float32Array(100), rate)).toBeNull();
  });
});
