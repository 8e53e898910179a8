import { concat, sine } from '../testing/signals';
import { Meter, type Measurement } from './measure';

/**
 * The minimum requirement tests of EBU Tech 3341 (2023) tables 1 and EBU Tech 3342, values from memory as
 * listed there. Levels are peak levels per channel; stereo signals are in phase.
 */
const rates = [44_100, 48_000, 96_000];

function measure(rateHz: number, channels: Float32Array[]): Measurement {
  const meter = new Meter(rateHz, channels.length);
  meter.process(channels);
  return meter.finish();
}

type Step = [peakDb: number, seconds: number];

/** 1 kHz in steps; a level of −∞ is silence. */
const steps = (rateHz: number, list: Step[]) =>
  concat(...list.map(([db, seconds]) => sine(rateHz, seconds, 1000, db)));

/** Two equal channels, or one that is 3.01 dB louder: both have the same loudness. */
function stereo(rateHz: number, list: Step[]): Measurement {
  const channel = steps(rateHz, list);
  return measure(rateHz, [channel, channel]);
}
const mono = (rateHz: number, list: Step[]) =>
  measure(rateHz, [
    steps(
      rateHz,
      list.map(([db, s]) => [db + 10 * Math.log10(2), s]),
    ),
  ]);

const silent = -Infinity;
const repeated = (count: number, list: Step[]): Step[] => Array.from({ length: count }, () => list).flat();

describe.each(rates)('EBU Tech 3341 at %d Hz', (rateHz) => {
  describe.each([
    ['stereo', stereo],
    ['mono', mono],
  ])('%s', (name, of) => {
    test.each([
      [1, [[-23, 20]], -23],
      [2, [[-33, 20]], -33],
    ] as [number, Step[], number][])('test %d: M, S and I', (_number, list, expected) => {
      const result = of(rateHz, list);
      expect(Math.abs(result.integratedLufs - expected)).toBeLessThanOrEqual(0.1);
      expect(Math.abs(result.momentaryMaxLufs - expected)).toBeLessThanOrEqual(0.1);
      expect(Math.abs(result.shortTermMaxLufs - expected)).toBeLessThanOrEqual(0.1);
    });

    test.each([
      [
        3,
        [
          [-36, 10],
          [-23, 60],
          [-36, 10],
        ],
      ],
      [
        4,
        [
          [-72, 10],
          [-36, 10],
          [-23, 60],
          [-36, 10],
          [-72, 10],
        ],
      ],
      [
        5,
        [
          [-26, 20],
          [-20, 20.1],
          [-26, 20],
        ],
      ],
    ] as [number, Step[]][])('test %d: I = −23.0', (_number, list) => {
      expect(Math.abs(of(rateHz, list).integratedLufs + 23)).toBeLessThanOrEqual(0.1);
    });

    test('test 9: S = −23.0 from 3 s on', () => {
      const result = of(
        rateHz,
        repeated(5, [
          [-20, 1.34],
          [-30, 1.66],
        ]),
      );
      for (const lufs of result.shortTerm.lufs) expect(Math.abs(lufs + 23)).toBeLessThanOrEqual(0.1);
      expect(result.shortTerm.lufs.length).toBeGreaterThan(100);
    });

    // Where a window falls does not depend on the number of channels: forty segments at three rates are
    // enough once.
    const segments =
      name === 'stereo' || rateHz === 48_000 ? Array.from({ length: 20 }, (_, i) => i) : [0, 7, 19];

    test.each(segments)('test 10, segment %d: max S = −23.0', (i) => {
      const result = of(rateHz, [
        [silent, i * 0.15],
        [-23, 3],
        [silent, 1],
      ]);
      expect(Math.abs(result.shortTermMaxLufs + 23)).toBeLessThanOrEqual(0.1);
    });

    test('test 12: M = −23.0 from 1 s on', () => {
      const result = of(
        rateHz,
        repeated(25, [
          [-20, 0.18],
          [-30, 0.22],
        ]),
      );
      expect(Math.abs(result.momentaryMaxLufs + 23)).toBeLessThanOrEqual(0.1);
    });

    test.each(segments)('test 13, segment %d: max M = −23.0', (i) => {
      const result = of(rateHz, [
        [silent, i * 0.02],
        [-23, 0.4],
        [silent, 1],
      ]);
      expect(Math.abs(result.momentaryMaxLufs + 23)).toBeLessThanOrEqual(0.1);
    });
  });

  test('test 6: five channels, I = −23.0', () => {
    const [front, centre, surround] = [-28, -24, -30].map((db) => sine(rateHz, 20, 1000, db));
    expect(
      Math.abs(measure(rateHz, [front, front, centre, surround, surround]).integratedLufs + 23),
    ).toBeLessThanOrEqual(0.1);
  });

  test.each([
    [15, 4, 0, 0.5, -6],
    [16, 4, 45, 0.5, -6],
    [17, 6, 60, 0.5, -6],
    [18, 8, 67.5, 0.5, -6],
    [19, 4, 45, 1.41, 3],
  ])('test %d: true peak of fs/%d at %d°', (_number, divisor, phase, amplitude, expected) => {
    const tone = sine(rateHz, 1, rateHz / divisor, 20 * Math.log10(amplitude), phase);
    // The standard fades its tones; an abrupt edge has a peak of its own.
    const faded = tone.map((value, i) => value * Math.min(1, i / 2000, (tone.length - i) / 2000));
    const { truePeakDbtp } = measure(rateHz, [faded, faded]);
    expect(truePeakDbtp).toBeGreaterThanOrEqual(expected - 0.4);
    expect(truePeakDbtp).toBeLessThanOrEqual(expected + 0.2);
  });
});

describe.each(rates)('EBU Tech 3342 at %d Hz', (rateHz) => {
  test.each([
    [[-20, -30], 10],
    [[-20, -15], 5],
    [[-40, -20], 20],
    [[-50, -35, -20, -35, -50], 15],
  ])('%j gives a loudness range of %d LU', (levels, expected) => {
    for (const channels of [stereo, mono]) {
      const { loudnessRangeLu } = channels(
        rateHz,
        levels.map((db): Step => [db, 20]),
      );
      expect(Math.abs(loudnessRangeLu - expected)).toBeLessThanOrEqual(1);
    }
  });
});

test('a 997 Hz sine at full scale in one channel reads −3.01 LKFS (ITU-R BS.1770-5)', () => {
  expect(measure(48_000, [sine(48_000, 20, 997, 0)]).integratedLufs).toBeCloseTo(-3.01, 2);
});
