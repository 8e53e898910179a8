import { seededRandom } from '../base/random';
import { noise } from '../testing/signals';
import { audioPiece } from '../testing/naiveTimeline';
import { applySoundFix, sheetRangesOf, withOutput } from '../timeline/fixEdits';
import { apply, difference, inverse } from '../timeline/history';
import { joinSteps } from '../timeline/joinSteps';
import { patchTone } from '../timeline/roomEdits';
import { PartRenderer, type Output } from '../timeline/output';
import { PieceTable, type ToneRegion } from '../timeline/pieces';
import { loadSounding, storeSounding } from '../timeline/sounding';
import type { SourceReader } from '../timeline/sourceReader';
import {
  emptyTimeline,
  heardFramesOf,
  loadTimeline,
  storeTimeline,
  type Timeline,
} from '../timeline/timeline';
import { insertTime, strike, stet } from '../timeline/edits';
import { measurePart, type MeasuredPart } from './partMeter';

const rateHz = 48_000;
const seconds = 90;
const joins = { joinFrames: 480, toneJoinFrames: 1920 };

/** Speech-like noise with pauses of room, a minute and a half of it. */
const recording = (() => {
  const audio = noise(seconds * rateHz, -62, 1);
  const loud = noise(seconds * rateHz, -20, 2);
  for (let at = 0; at < seconds; at += 5)
    for (let i = at * rateHz; i < (at + 4) * rateHz; i++) audio[i] += loud[i];
  return audio;
})();

const sources: SourceReader = {
  lengthOf: () => recording.length,
  read: (_source, _channel, from, frames, output, offset) => {
    output.set(recording.subarray(from, from + frames), offset);
    return Promise.resolve();
  },
};

const region: ToneRegion = { source: 'take', channel: 0, start: 4.2 * rateHz, end: 4.9 * rateHz };

const part = (): Timeline => {
  const empty = emptyTimeline(['Voice']);
  return {
    ...empty,
    tracks: [{ ...empty.tracks[0], table: PieceTable.of([audioPiece('take', 0, recording.length)]) }],
  };
};

const quiet = { progress: () => undefined };

function measure(timeline: Timeline, earlier: MeasuredPart | null) {
  const sounding = storeSounding(timeline);
  const renderer = new PartRenderer(loadSounding(sounding), rateHz, sources, joins);
  return measurePart(renderer, sounding, rateHz, 1, earlier, quiet);
}

const limited: Output = { gainDb: 4, dcOffsets: [0, 0], ceiling: { kind: 'sample', dbfs: -12 } };

describe('measuring again after an edit', () => {
  const at = (second: number) => Math.round(second * rateHz);
  const edits: [string, (timeline: Timeline) => Timeline, number][] = [
    // With how many seconds have to be measured at most: those after the edit, and the marks' distance.
    ['a strike near the end', (t) => strike(t, { from: at(80), to: at(81) }), 40],
    ['a gap near the end', (t) => insertTime(t, at(70), at(0.5)), 45],
    [
      'tone over a passage, the length kept',
      (t) => patchTone(t, { from: at(40), to: at(41.5) }, () => region),
      50,
    ],
    ['a strike at the start', (t) => strike(t, { from: 0, to: at(1) }), 150],
    ['nothing at all', (t) => t, 40],
  ];

  test.each(edits)('%s: the same to the last bit, and less work', async (_, edit, most) => {
    const before = await measure(part(), null);
    const edited = edit(part());
    const again = await measure(edited, before);
    const fresh = await measure(edited, null);
    expect(again.measurement).toEqual(fresh.measurement);
    expect(again.framesMeasured / rateHz).toBeLessThanOrEqual(most);
    expect(fresh.framesMeasured).toBe(heardFramesOf(edited));
  });

  test('one edit after another, under a ceiling too: seven random steps are each as if measured anew', async () => {
    const random = seededRandom(11);
    let timeline = withOutput(part(), limited);
    let last = await measure(timeline, null);
    let saved = 0;
    for (let step = 0; step < 7; step++) {
      const from = at(random() * 70 + 10);
      const range = { from, to: from + at(random() * 2 + 0.1) };
      const kind = Math.floor(random() * 3);
      timeline =
        kind === 0
          ? strike(timeline, range)
          : kind === 1
            ? stet(timeline, range)
            : patchTone(timeline, range, () => region);
      const again = await measure(timeline, last);
      const fresh = await measure(timeline, null);
      expect([step, again.measurement]).toEqual([step, fresh.measurement]);
      saved += fresh.framesMeasured - again.framesMeasured;
      last = again;
    }
    expect(saved).toBeGreaterThan(0);
  }, 60_000);

  test('another gain is another sound: all of it is measured', async () => {
    const before = await measure(part(), null);
    const louder = withOutput(part(), { ...limited, ceiling: null });
    const again = await measure(louder, before);
    expect(again.framesMeasured).toBe(recording.length);
    expect(again.measurement.rmsDbfs).toBeCloseTo(before.measurement.rmsDbfs + 4, 3);
  });
});

describe('gain and ceiling of a part', () => {
  const renderer = (timeline: Timeline) =>
    new PartRenderer(loadSounding(storeSounding(timeline)), rateHz, sources, joins);

  test('sound the same from wherever it is rendered, in chunks of any size', async () => {
    const whole = await renderer(withOutput(part(), limited)).channels(0, 20 * rateHz, 1);
    const random = seededRandom(3);
    for (let turn = 0; turn < 12; turn++) {
      const from = Math.floor(random() * 18 * rateHz);
      const frames = 1 + Math.floor(random() * 2 * rateHz);
      const [piece] = await renderer(withOutput(part(), limited)).channels(from, frames, 1);
      expect(
        Buffer.compare(Buffer.from(piece.buffer), Buffer.from(whole[0].slice(from, from + frames).buffer)),
      ).toBe(0);
    }
    expect(whole[0].every((sample) => Math.abs(sample) <= 10 ** (-12 / 20))).toBe(true);
  });

  test('are a step that is undone and redone, stored and loaded', () => {
    const before = part();
    const after = withOutput(before, limited);
    const step = difference(before, after);
    expect(apply(before, step).output).toEqual(limited);
    expect(apply(after, inverse(step)).output).toBeUndefined();
    expect(loadTimeline(storeTimeline(after)).output).toEqual(limited);
    expect(difference(after, after).output).toBe(null);
  });

  test('two sides in mono are their mean, one in stereo is the same twice', async () => {
    const [track] = part().tracks;
    const tracks = [
      { ...track, side: 'left' as const },
      {
        ...track,
        id: 'track-2',
        side: 'right' as const,
        table: PieceTable.of([
          audioPiece('take', rateHz, recording.length - rateHz),
          audioPiece('take', 0, rateHz),
        ]),
      },
    ];
    const sides = new PartRenderer({ tracks }, rateHz, sources, joins);
    const [left, right] = await sides.channels(0, 1000, 2);
    const [mono] = await sides.channels(0, 1000, 1);
    mono.forEach((sample, i) => expect(sample).toBeCloseTo((left[i] + right[i]) / 2, 7));
    const [a, b] = await renderer(part()).channels(0, 1000, 2);
    expect(a).toEqual(b);
  });
});

describe('head, tail and holes', () => {
  const toneOf = () => region;
  const struckAtEnds = () =>
    strike(strike(part(), { from: 0, to: 2 * rateHz }), {
      from: (seconds - 2) * rateHz,
      to: recording.length,
    });

  test('are made longer with room tone, inside what is struck at the ends', () => {
    const fixed = applySoundFix(struckAtEnds(), { head: 1000, tail: 2000, holes: [] }, toneOf);
    expect(heardFramesOf(fixed)).toBe(heardFramesOf(struckAtEnds()) + 3000);
    const { table } = fixed.tracks[0];
    const heard = table.pieces.filter(({ struck }) => !struck);
    expect(heard[0]).toMatchObject({ kind: 'tone', length: 1000 });
    expect(heard[heard.length - 1]).toMatchObject({ kind: 'tone', length: 2000 });
  });

  test('are made shorter by striking, which can be let stand again', () => {
    const fixed = applySoundFix(struckAtEnds(), { head: -500, tail: -700, holes: [] }, toneOf);
    expect(heardFramesOf(fixed)).toBe(heardFramesOf(struckAtEnds()) - 1200);
    expect(fixed.tracks[0].table.sheetFrames).toBe(recording.length);
  });

  test('a hole across a struck passage is filled on both sides of it; nothing else moves', () => {
    const timeline = strike(part(), { from: 10 * rateHz, to: 11 * rateHz });
    const hole = { from: 9.5 * rateHz, to: 10.5 * rateHz };
    expect(sheetRangesOf(timeline.tracks[0].table, hole)).toEqual([
      { from: 9.5 * rateHz, to: 10 * rateHz },
      { from: 11 * rateHz, to: 11.5 * rateHz },
    ]);
    const fixed = applySoundFix(timeline, { head: 0, tail: 0, holes: [hole] }, toneOf);
    expect(heardFramesOf(fixed)).toBe(heardFramesOf(timeline));
    expect(
      fixed.tracks[0].table.pieces.filter(({ kind }) => kind === 'tone').map(({ length }) => length),
    ).toEqual([0.5 * rateHz, 0.5 * rateHz]);
  });
});

describe('joins that jump', () => {
  const sine: SourceReader = {
    lengthOf: () => rateHz,
    read: (_source, _channel, from, frames, output, offset) => {
      for (let i = 0; i < frames; i++)
        output[offset + i] = 0.5 * Math.sin((2 * Math.PI * 100 * (from + i)) / rateHz);
      return Promise.resolve();
    },
  };
  const table = PieceTable.of([audioPiece('take', 0, 4920), audioPiece('take', 9960, 5000)]);

  test('are found where nothing softens them, and not where a crossfade does', async () => {
    const hard = new PartRenderer({ tracks: [{ table }] }, rateHz, sine, { joinFrames: 0 });
    expect(await joinSteps([table], hard, rateHz, { joinFrames: 0 }, sine.lengthOf)).toEqual([
      { from: 4920, to: 4920 },
    ]);
    const soft = new PartRenderer({ tracks: [{ table }] }, rateHz, sine, joins);
    expect(await joinSteps([table], soft, rateHz, joins, sine.lengthOf)).toEqual([]);
  });
});
