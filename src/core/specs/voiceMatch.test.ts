import { audioPiece } from '../testing/naiveTimeline';
import { memorySources } from '../testing/mixing';
import { concat, noise } from '../testing/signals';
import { addBed, changeStrip } from '../timeline/mixEdits';
import { PartRenderer } from '../timeline/partRenderer';
import { PieceTable } from '../timeline/pieces';
import { soundingOf } from '../timeline/sounding';
import { emptyStaves, type Timeline } from '../timeline/timeline';
import { plainClip } from '../testing/mixing';
import { bedLimits, luUnder, measureUnderSpeech } from './underSpeech';
import { loudnessOfRanges, matchVoices } from './voiceMatch';

const rateHz = 48_000;
const watch = { progress: () => undefined };
const settings = { joins: { joinFrames: 0 }, rateHz };
const second = (from: number, to: number) => ({ from: from * rateHz, to: to * rateHz });

/** Two voices that take turns of two seconds, one 9 dB louder than the other, each with its room. */
const turns = { a: [second(0, 2), second(4, 6)], b: [second(2, 4), second(6, 8)] };
const voice = (seed: number, dbfs: number, own: number) =>
  concat(...[0, 1, 2, 3].map((turn) => noise(2 * rateHz, turn % 2 === own ? dbfs : -70, seed + turn)));
const recordings = { a: [voice(1, -18, 0)], b: [voice(9, -27, 1)], music: [noise(8 * rateHz, -30, 30)] };
const sources = memorySources(recordings);

function part(): Timeline {
  const bare = emptyStaves([
    { id: 'a', name: 'Anna' },
    { id: 'b', name: 'Ben' },
  ]);
  const table = (id: string) => PieceTable.of([audioPiece(id, 0, 8 * rateHz)]);
  return { ...bare, tracks: bare.tracks.map((track) => ({ ...track, table: table(track.id) })) };
}

const loudness = (timeline: Timeline, id: 'a' | 'b') => {
  const sounding = soundingOf(timeline, settings, (one) => one === id);
  return loudnessOfRanges(new PartRenderer(sounding, sources), turns[id], rateHz, watch);
};

test('two voices 9 dB apart are within 0.5 LU of each other afterwards, around their mean', async () => {
  const [a, b] = [await loudness(part(), 'a'), await loudness(part(), 'b')];
  expect((a ?? 0) - (b ?? 0)).toBeCloseTo(9, 1);
  const plan = matchVoices([
    { id: 'a', name: 'Anna', levelDb: 0, lufs: a },
    { id: 'b', name: 'Ben', levelDb: 0, lufs: b },
    { id: 'c', name: 'Silent', levelDb: 3, lufs: null },
  ]);
  expect(plan?.map(({ id }) => id)).toEqual(['a', 'b']);
  const matched = (plan ?? []).reduce(
    (timeline, { id, matchedDb }) => changeStrip(timeline, id, { levelDb: matchedDb }),
    part(),
  );
  const [nowA, nowB] = [await loudness(matched, 'a'), await loudness(matched, 'b')];
  expect(Math.abs((nowA ?? 0) - (nowB ?? 99))).toBeLessThan(0.5);
  expect(nowA).toBeCloseTo(((a ?? 0) + (b ?? 0)) / 2, 0);
});

test('there is nothing to compare with one voice', () => {
  expect(matchVoices([{ id: 'a', name: 'Anna', levelDb: 0, lufs: -20 }])).toBeNull();
});

test('how far a bed lies under speech is the difference of their loudness, passage by passage', async () => {
  const clip = plainClip('music', 8 * rateHz);
  const timeline = changeStrip(addBed(part(), { id: 'bed', name: 'Music', clips: [clip] }), 'bed', {
    levelDb: -6,
  });
  const passages = await measureUnderSpeech(
    new PartRenderer(
      soundingOf(timeline, settings, (id) => id !== 'bed'),
      sources,
    ),
    new PartRenderer(
      soundingOf(timeline, settings, (id) => id === 'bed'),
      sources,
    ),
    [...turns.a.slice(0, 1), ...turns.b.slice(0, 1), second(0, 0.2)],
    rateHz,
    watch,
  );
  // All is white noise: K-weighting changes it alike, so levels in dB are loudness in LU.
  expect(luUnder(passages[0])).toBeCloseTo(-18 + 36, 1);
  expect(luUnder(passages[1])).toBeCloseTo(-27 + 36, 1);
  // Shorter than the block of 400 ms that loudness is measured over.
  expect(luUnder(passages[2])).toBeNull();
  // WCAG 2.2, 1.4.7: 20 dB; common practice: 12 to 18 LU.
  expect(bedLimits.wcag.leastLu).toBe(20);
  expect(bedLimits.usual).toMatchObject({ leastLu: 12, mostLu: 18 });
});
