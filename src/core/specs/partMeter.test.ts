import { seededRandom } from '../base/random';
import { noise } from '../testing/signals';
import { audioPiece } from '../testing/naiveTimeline';
import { usualStep } from '../chain/settings';
import { applySoundFix, withOutput } from '../timeline/fixEdits';
import { apply, difference, inverse } from '../timeline/history';
import { joinJumps } from '../timeline/joinJumps';
import { patchTone } from '../timeline/roomEdits';
import { heardTracks } from '../timeline/heard';
import { changeGain, setFade, setJoin } from '../timeline/joints';
import type { Output } from '../timeline/output';
import { changeChain } from '../timeline/mixEdits';
import { PartRenderer } from '../timeline/partRenderer';
import { PieceTable, type ToneRegion } from '../timeline/pieces';
import { soundingOf, soundingOfTracks } from '../timeline/sounding';
import type { SourceReader } from '../timeline/sourceReader';
import { clockOf, emptyTimeline, heardFramesOf, sheetFramesOf, type Timeline } from '../timeline/timeline';
import { loadTimeline, storeTimeline } from '../timeline/stored';
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
  const sounding = soundingOf(timeline, { joins, rateHz });
  return measurePart(new PartRenderer(sounding, sources), sounding, 1, earlier, quiet);
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
    ['a passage 3 dB louder', (t) => changeGain(t, { from: at(60), to: at(62) }, 3), 50],
    ['a fade', (t) => setFade(t, { from: at(60), to: at(62) }, 'fadeOut', 'smooth'), 50],
    ['a joint that is 3 s long', (t) => setJoin(withCut(t), at(60), at(3), 'power'), 50],
  ];
  /** A cut between two readings at one minute. */
  const withCut = (t: Timeline): Timeline => ({
    ...t,
    tracks: [
      {
        ...t.tracks[0],
        table: PieceTable.of([audioPiece('take', 0, at(60)), audioPiece('take', at(5), at(30))]),
      },
    ],
  });

  test.each([
    ['the shape of a long joint', (t: Timeline) => setJoin(t, at(60), at(4), 'straight')],
    ['the length of a long joint', (t: Timeline) => setJoin(t, at(60), at(2.5), 'power')],
    [
      'what stands 1.5 s from a long joint',
      (t: Timeline) => changeGain(t, { from: at(61.5), to: at(61.9) }, -6),
    ],
  ])('%s is another sound, measured as if anew', async (_, edit) => {
    const before = setJoin(withCut(part()), at(60), at(4), 'power');
    const again = await measure(edit(before), await measure(before, null));
    expect(again.measurement).toEqual((await measure(edit(before), null)).measurement);
  });

  test('the side of a track is part of the sound', async () => {
    const [track] = part().tracks;
    const sided = (side: 'left' | 'right'): Timeline => ({ ...part(), tracks: [{ ...track, side }] });
    const sounding = (timeline: Timeline) => soundingOf(timeline, { joins, rateHz });
    const measured = (timeline: Timeline, earlier: MeasuredPart | null) =>
      measurePart(new PartRenderer(sounding(timeline), sources), sounding(timeline), 2, earlier, quiet);
    const left = await measured(sided('left'), null);
    const right = await measured(sided('right'), left);
    expect(right.measurement).toEqual((await measured(sided('right'), null)).measurement);
    expect(right.measurement.stereo).not.toEqual(left.measurement.stereo);
  });

  test.each(edits)('%s: the same to the last bit, and less work', async (_, edit, most) => {
    const before = await measure(part(), null);
    const edited = edit(part());
    const again = await measure(edited, before);
    const fresh = await measure(edited, null);
    expect(again.measurement).toEqual(fresh.measurement);
    expect(again.framesMeasured / rateHz).toBeLessThanOrEqual(most);
    expect(fresh.framesMeasured).toBe(heardFramesOf(edited));
  });

  test('one edit after another, of every kind, under a ceiling too: each is as if measured anew', async () => {
    const random = seededRandom(11);
    let timeline = withOutput(part(), limited);
    let last = await measure(timeline, null);
    let saved = 0;
    for (let step = 0; step < 6; step++) {
      const from = at(random() * 70 + 10);
      const range = { from, to: from + at(random() * 2 + 0.1) };
      const kinds: ((t: Timeline) => Timeline)[] = [
        (t) => strike(t, range),
        (t) => stet(t, range),
        (t) => patchTone(t, range, () => region),
        (t) => changeGain(t, range, 2),
        (t) => setFade(t, range, 'fadeIn', 'power'),
        (t) => setJoin(t, range.from, at(random() * 2), 'smooth'),
      ];
      timeline = kinds[step % kinds.length](timeline);
      const again = await measure(timeline, last);
      const fresh = await measure(timeline, null);
      expect([step, again.measurement]).toEqual([step, fresh.measurement]);
      saved += fresh.framesMeasured - again.framesMeasured;
      last = again;
    }
    expect(saved).toBeGreaterThan(0);
  }, 120_000);

  test('under a chain as well: what it hears before and after an edit is measured anew', async () => {
    const steps = [
      { ...usualStep('rumble', '1'), hertz: 60 },
      { ...usualStep('pauses', '2'), rangeDb: 6 },
      { ...usualStep('even', '3'), thresholdDb: -26, releaseMs: 300 },
      { ...usualStep('ceiling', '4'), ceilingDb: -12 },
    ];
    const chained = (timeline: Timeline) => changeChain(timeline, timeline.tracks[0].id, { name: '', steps });
    let timeline = chained(part());
    let last = await measure(timeline, null);
    let saved = 0;
    // The first one stands right after a mark, and what looks ahead hears it before that.
    for (const edit of [
      (t: Timeline) => changeGain(t, { from: at(60.03), to: at(60.5) }, 12),
      (t: Timeline) => patchTone(t, { from: at(39.2), to: at(40) }, () => region),
    ]) {
      timeline = edit(timeline);
      const again = await measure(timeline, last);
      const fresh = await measure(timeline, null);
      expect(again.measurement).toEqual(fresh.measurement);
      saved += fresh.framesMeasured - again.framesMeasured;
      last = again;
    }
    expect(saved).toBeGreaterThan(20 * rateHz);
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
  const renderer = (timeline: Timeline) => new PartRenderer(soundingOf(timeline, { joins, rateHz }), sources);

  test('sound the same from wherever it is rendered, in chunks of any size', async () => {
    const whole = await renderer(withOutput(part(), limited)).mix({ delivering: 1 }, 0, 20 * rateHz);
    const random = seededRandom(3);
    for (let turn = 0; turn < 12; turn++) {
      const from = Math.floor(random() * 18 * rateHz);
      const frames = 1 + Math.floor(random() * 2 * rateHz);
      const [piece] = await renderer(withOutput(part(), limited)).mix({ delivering: 1 }, from, frames);
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
    const sides = new PartRenderer(soundingOfTracks(tracks, { joins, rateHz }), sources);
    const [left, right] = await sides.mix({ delivering: 2 }, 0, 1000);
    const [mono] = await sides.mix({ delivering: 1 }, 0, 1000);
    mono.forEach((sample, i) => expect(sample).toBeCloseTo((left[i] + right[i]) / 2, 7));
    const [a, b] = await renderer(part()).mix({ delivering: 2 }, 0, 1000);
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
    const heard = heardTracks(fixed)[0].table.pieces;
    expect(heard[0]).toMatchObject({ kind: 'tone', length: 1000 });
    expect(heard[heard.length - 1]).toMatchObject({ kind: 'tone', length: 2000 });
  });

  test('are made shorter by striking, which can be let stand again', () => {
    const fixed = applySoundFix(struckAtEnds(), { head: -500, tail: -700, holes: [] }, toneOf);
    expect(heardFramesOf(fixed)).toBe(heardFramesOf(struckAtEnds()) - 1200);
    expect(sheetFramesOf(fixed)).toBe(recording.length);
  });

  test('a hole across a struck passage is filled on both sides of it; nothing else moves', () => {
    const timeline = strike(part(), { from: 10 * rateHz, to: 11 * rateHz });
    const hole = { from: 9.5 * rateHz, to: 10.5 * rateHz };
    expect(clockOf(timeline).sheetRangesOf(hole)).toEqual([
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

  const jumpsOf = (tracks: Parameters<typeof soundingOfTracks>[0], settings: { joinFrames: number }) => {
    const sounding = soundingOfTracks(tracks, { joins: settings, rateHz });
    return joinJumps(sounding, new PartRenderer(sounding, sine), sine.lengthOf);
  };

  test('are found where nothing softens them, and not where a crossfade does', async () => {
    expect(await jumpsOf([{ table }], { joinFrames: 0 })).toEqual([{ from: 4920, to: 4920 }]);
    expect(await jumpsOf([{ table }], joins)).toEqual([]);
  });

  test('are found on the right side as on the left', async () => {
    const whole = PieceTable.of([audioPiece('take', 0, 9920)]);
    const sided = (left: PieceTable, right: PieceTable) => [
      { table: left, side: 'left' as const },
      { table: right, side: 'right' as const },
    ];
    expect(await jumpsOf(sided(whole, table), { joinFrames: 0 })).toEqual([{ from: 4920, to: 4920 }]);
    expect(await jumpsOf(sided(table, whole), { joinFrames: 0 })).toEqual([{ from: 4920, to: 4920 }]);
    expect(await jumpsOf(sided(whole, whole), { joinFrames: 0 })).toEqual([]);
  });
});
