import { prompts, sessionOf, promptRateHz } from '../testing/prompts';
import { add, concat, noise, sine } from '../testing/signals';
import { breath, click, door, room, hum } from '../testing/sounds';
import { melCepstra } from './cepstra';
import { findFillers, findStutters } from './fillers';
import {
  analyse,
  defaultFindingOptions,
  describeFinding,
  findingKinds,
  type FindingOptions,
} from './findings';
import { alignLines } from './lineAlignment';
import { replaceablePauses } from './pauseCleaning';
import { findBreaths, findClicks } from './pauseSounds';
import { findRoomTone } from './roomTone';
import { findSpeech, withoutBreaths } from './voiceActivity';

const rateHz = promptRateHz;
const seconds = (value: number) => Math.round(value * rateHz);
const readings = prompts('en', 24, 1.6);
/** Sentences with pauses of these lengths between them, in room noise. */
function reading(
  pauses: readonly number[],
  more: (audio: Float32Array, gaps: { from: number; to: number }[]) => void = () => undefined,
) {
  const gaps: { from: number; to: number }[] = [];
  const pieces: Float32Array[] = [];
  let at = 0;
  pauses.forEach((pause, index) => {
    const sentence = readings[index % readings.length];
    pieces.push(sentence, new Float32Array(seconds(pause)));
    at += sentence.length;
    gaps.push({ from: at, to: at + seconds(pause) });
    at += seconds(pause);
  });
  const speech = concat(...pieces, readings[pauses.length]);
  more(speech, gaps);
  return { audio: add(speech, room(speech.length, rateHz, 4, -62)), gaps };
}
const put = (into: Float32Array, sound: Float32Array, at: number) =>
  sound.forEach((value, i) => {
    into[at + i] += value;
  });
const options = (more: Partial<FindingOptions>): FindingOptions => ({ ...defaultFindingOptions, ...more });
const near = (a: number, b: number, tolerance: number) => Math.abs(a - b) <= seconds(tolerance);

test('pauses that are longer or shorter than wanted are told with their length', () => {
  const { audio, gaps } = reading([0.8, 3.1, 0.2, 1]);
  const { findings } = analyse(
    { samples: audio, marks: [], clipped: [] },
    options({ kinds: ['longPause', 'shortPause'], longestPause: 2, shortestPause: 0.3 }),
  );
  const [long, short] = findings;
  expect(findings.map(({ kind }) => kind)).toEqual(['longPause', 'shortPause']);
  expect(near(long.from, gaps[1].from, 0.08) && near(long.to, gaps[1].to, 0.03)).toBe(true);
  expect(long.amount).toBeCloseTo(3.1, 0);
  expect(near(short.to, gaps[2].to, 0.03)).toBe(true);
});

test('clicks in pauses are found; doors, breaths and words are none', () => {
  const { audio, gaps } = reading(Array(16).fill(1), (speech, all) => {
    all.forEach(({ from }, index) => {
      const sound = [click, breath, door, click][index % 4](rateHz, index);
      put(speech, index % 4 === 3 ? sound.map((value) => value * 0.4) : sound, from + seconds(0.3));
    });
  });
  const clicks = findClicks(audio, findSpeech(audio, rateHz), rateHz);
  const expected = gaps.filter((_, index) => index % 4 === 0 || index % 4 === 3);
  const right = clicks.filter(({ from }) =>
    expected.some((gap) => near(from, gap.from + seconds(0.3), 0.02)),
  );
  expect(right.length).toBeGreaterThanOrEqual(expected.length - 1);
  expect(clicks.length - right.length).toBeLessThanOrEqual(1);
});

test('breaths are found with their level over the room; also one that runs into its sentence', () => {
  const { audio, gaps } = reading(Array(8).fill(1), (speech, all) => {
    all.forEach(({ from, to }, index) => {
      const sound = breath(rateHz, index);
      put(speech, sound, index % 2 === 0 ? from + seconds(0.3) : to - sound.length);
    });
  });
  const speech = withoutBreaths(audio, findSpeech(audio, rateHz), rateHz);
  const breaths = findBreaths(audio, speech, rateHz);
  const found = gaps.filter(({ from, to }) => breaths.some((one) => one.from < to && one.to > from));
  expect(found.length).toBeGreaterThanOrEqual(7);
  // −46 dBFS RMS over a room of −62 dBFS that has little above 500 Hz.
  for (const { levelDbfs } of breaths) expect(Math.abs(levelDbfs + 46)).toBeLessThan(3);
});

test('a sentence off the level of its neighbours is told with what brings it back', () => {
  const parts = readings
    .slice(0, 9)
    .map((one, index) => (index === 4 ? one.map((value) => value * 0.4) : one));
  const { audio, placed } = sessionOf(parts, -65, 3);
  const { findings } = analyse({ samples: audio, marks: [], clipped: [] }, options({ kinds: ['level'] }));
  // A prompt can hold several sentences: all of them are in the one that was made softer.
  expect(findings.length).toBeGreaterThan(0);
  for (const finding of findings) {
    expect(finding.from).toBeGreaterThan(placed[4].from - seconds(0.3));
    expect(finding.to).toBeLessThan(placed[4].to + seconds(0.3));
    expect(Math.abs(finding.amount - 7.96)).toBeLessThan(3);
  }
});

test('stretches that were clipped are told once, with the word around them', () => {
  const { audio, gaps } = reading([1, 1]);
  const at = gaps[0].to + seconds(0.5);
  const { findings } = analyse(
    { samples: audio, marks: [], clipped: [{ from: at, to: at + 40 }] },
    options({ kinds: ['clipped'] }),
  );
  expect(findings).toHaveLength(1);
  expect(findings[0].from).toBeLessThanOrEqual(at);
  expect(findings[0].to).toBeGreaterThan(at + 40);
});

describe('room tone', () => {
  test('is the quietest second without speech, breath or a change of hum', () => {
    const { audio, gaps } = reading([1.2, 2.4, 2.4, 2.4], (speech, all) => {
      put(speech, breath(rateHz, 1), all[1].from + seconds(1));
      put(speech, hum(seconds(1), rateHz, -50), all[2].from + seconds(1.2));
    });
    const tone = findRoomTone(audio, findSpeech(audio, rateHz), rateHz);
    expect(tone).not.toBeNull();
    expect(tone?.from).toBeGreaterThanOrEqual(gaps[3].from);
    expect(tone?.to).toBeLessThanOrEqual(gaps[3].to);
    expect((tone?.to ?? 0) - (tone?.from ?? 0)).toBeGreaterThanOrEqual(rateHz);
    expect(Math.abs((tone?.levelDbfs ?? 0) + 62)).toBeLessThan(1.5);
  });

  test('there is none in dense speech, nor in digital silence', () => {
    const { audio } = reading([0.4, 0.5, 0.6]);
    expect(findRoomTone(audio, findSpeech(audio, rateHz), rateHz)).toBeNull();
    expect(findRoomTone(new Float32Array(5 * rateHz), [], rateHz)).toBeNull();
  });
});

test('what of the pauses room tone can replace: not the ends of words, not breaths, nothing too short', () => {
  const speech = [
    { from: 1000, to: 2000 },
    { from: 2100, to: 3000 },
    { from: 5000, to: 6000 },
  ];
  const breaths = [{ from: 4000, to: 4300 }];
  expect(replaceablePauses(speech, breaths, 7000, 1000)).toEqual([
    { from: 0, to: 940 },
    { from: 3120, to: 4000 },
    { from: 4300, to: 4940 },
    { from: 6120, to: 7000 },
  ]);
});

describe('fillers and stutters', () => {
  test('a held vowel by itself is a filler, a word by itself is not', () => {
    const vowel = [1, 2, 3, 5, 7].map((k) => sine(rateHz, 0.4, 120 * k, -20 - 3 * k)).reduce(add);
    const gap = new Float32Array(seconds(0.5));
    const speech = concat(gap, readings[0], gap, vowel, gap, readings[1], gap);
    const audio = add(speech, noise(speech.length, -65, 2));
    const stretches = findSpeech(audio, rateHz);
    const fillers = findFillers(melCepstra(audio), stretches);
    expect(fillers).toHaveLength(1);
    expect(near(fillers[0].from, gap.length * 2 + readings[0].length, 0.05)).toBe(true);
  });

  test('a syllable that is begun twice is a stutter', () => {
    const [, sentence] = readings;
    const begin = sentence
      .slice(0, seconds(0.16))
      .map((value, i, all) => value * Math.min(1, (all.length - i) / 300));
    const gap = new Float32Array(seconds(0.15));
    const speech = concat(
      new Float32Array(seconds(0.6)),
      begin,
      gap,
      sentence,
      new Float32Array(seconds(0.6)),
    );
    const audio = add(speech, noise(speech.length, -65, 2));
    const found = findStutters(melCepstra(audio), findSpeech(audio, rateHz));
    expect(found).toHaveLength(1);
    expect(near(found[0].from, seconds(0.6), 0.05)).toBe(true);
    expect(near(found[0].to, seconds(0.6) + begin.length + gap.length, 0.05)).toBe(true);
  });
});

describe('the script along the sheet', () => {
  const speech = (lengths: number[]) => {
    let at = 0;
    return lengths.map((length) => {
      at += 10;
      const stretch = { from: at, to: at + length };
      at += length;
      return stretch;
    });
  };

  test('lines take the sentences whose lengths fit theirs, in order', () => {
    // The second line is read in two breaths.
    const aligned = alignLines([20, 50, 30], speech([200, 240, 260, 300]));
    expect(aligned).toEqual([
      { line: 0, first: 0, last: 0 },
      { line: 1, first: 1, last: 2 },
      { line: 2, first: 3, last: 3 },
    ]);
  });

  test('a line that was not read, and words that belong to no line, are left out', () => {
    const missing = alignLines([60, 200, 60], speech([600, 600])).map(({ line }) => line);
    expect(missing).toEqual([0, 2]);
    expect(alignLines([], speech([100]))).toEqual([]);
    expect(alignLines([10, 20], [])).toEqual([]);
  });
});

test('every kind of finding says in words what it is', () => {
  for (const kind of findingKinds)
    expect(describeFinding({ kind, amount: kind === 'level' ? -3 : 1.5, marked: false })).toMatch(
      /^[A-Z0-9].{5,}/,
    );
});

test('nothing is found in nothing', () => {
  for (const samples of [new Float32Array(0), new Float32Array(100), new Float32Array(3 * rateHz)]) {
    const all = analyse({ samples, marks: [10], clipped: [] }, options({ kinds: [...findingKinds] }));
    expect(all.findings).toEqual([]);
    expect(all.speech).toEqual([]);
  }
});
