import { findSpeech } from '@/core/speech/voiceActivity';
import { measurePart } from '@/core/specs/partMeter';
import { addBed, changeStrip } from '@/core/timeline/mixEdits';
import { clearSpeech, defaultDucking, duckedPoints, passagesOf } from '@/core/timeline/ducking';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { PieceTable, type Piece } from '@/core/timeline/pieces';
import { soundingOf } from '@/core/timeline/sounding';
import { clockOf, emptyStaves, type Timeline } from '@/core/timeline/timeline';
import { memorySources, plainClip } from '@/core/testing/mixing';
import { concat, decodeWithFfmpeg, noise } from '@/core/testing/signals';
import { median, type Row } from './row';

const rateHz = 48_000;
const hour = 3600 * rateHz;
const voices = ['Ada', 'Ben', 'Cleo', 'Dan'];
const piecesOfEach = 1200;

/** Five minutes of the demo's readings a voice, each from another one on; an hour is put together of them. */
const recorded = 300 * rateHz;
const readings = concat(
  ...['arrival', 'boat-house', 'stair', 'keepers-talk'].map((name) =>
    decodeWithFfmpeg(`public/demo/${name}.mp3`),
  ),
);
const music = decodeWithFfmpeg('public/demo/bed.mp3');
const around = (samples: Float32Array, from: number, frames: number) =>
  Float32Array.from({ length: frames }, (_, i) => samples[(from + i) % samples.length]);
const sources = memorySources({
  ...Object.fromEntries(
    voices.map((name, index) => [name, [around(readings, (index * readings.length) >> 2, recorded)]]),
  ),
  music: [around(music, 0, 60 * rateHz), around(music, rateHz, 60 * rateHz)],
  rain: [noise(40 * rateHz, -50, 13)],
});

function conversation(): Timeline {
  const bare = emptyStaves(voices.map((name) => ({ id: name, name })));
  const length = hour / piecesOfEach;
  const pieces = (source: string): Piece[] =>
    Array.from({ length: piecesOfEach }, (_, i) => ({
      kind: 'audio',
      source,
      channel: 0,
      from: (i * 7919 * 131) % (recorded - length),
      length,
      gainDb: 0,
    }));
  const laid: Timeline = {
    ...bare,
    tracks: bare.tracks.map((track) => ({ ...track, table: PieceTable.of(pieces(track.id)) })),
  };
  const loop = { from: 10 * rateHz, to: 39 * rateHz, fadeFrames: 4800, shape: 'power' as const };
  const under = { end: { moment: { kind: 'end' as const }, after: 0 }, loop };
  const withBeds = [
    { id: 'music', channels: 2 as const, seconds: 60 },
    { id: 'rain', channels: 1 as const, seconds: 40 },
  ].reduce(
    (timeline, { id, channels, seconds }) =>
      addBed(timeline, { id, name: id, clips: [plainClip(id, seconds * rateHz, { channels, ...under })] }),
    laid,
  );
  return voices.reduce(
    (timeline, id, index) => changeStrip(timeline, id, { levelDb: index - 2, place: (index - 1.5) / 3 }),
    withBeds,
  );
}

const seconds = async (work: () => unknown): Promise<number> => {
  const started = performance.now();
  await work();
  return (performance.now() - started) / 1000;
};

/** Mixing an hour of four voices and two beds, and writing how a bed goes down under an hour of speech. */
export async function benchMixing(): Promise<Row[]> {
  const plain = conversation();
  const clock = clockOf(plain);
  const speech = clearSpeech(
    Array.from({ length: 700 }, (_, i) => ({
      from: 5 * i * rateHz,
      to: (5 * i + 1 + (i % 4)) * rateHz,
      levelDbfs: -24,
    })),
  );
  const ducking = { ...defaultDucking, waitSeconds: 0.1, upSeconds: 0.3, downSeconds: 0.2 };
  let points = duckedPoints([], passagesOf(speech, ducking, rateHz), ducking, clock, rateHz);
  const writing: number[] = [];
  for (let turn = 0; turn < 5; turn++)
    writing.push(
      await seconds(() => {
        points = duckedPoints([], passagesOf(speech, ducking, rateHz), ducking, clock, rateHz);
      }),
    );
  const listened = noise(60 * rateHz, -24, 5);
  const listening = await seconds(() => findSpeech(listened, rateHz));
  const timeline = changeStrip(plain, 'music', { points });
  const sounding = soundingOf(timeline, { joins: { joinFrames: 480 }, rateHz });
  const watch = { progress: () => undefined };
  const mixing = await seconds(() =>
    measurePart(new PartRenderer(sounding, sources), sounding, 2, null, watch),
  );
  const [voice] = voices;
  const alone = soundingOf(plain, { joins: { joinFrames: 480 }, rateHz }, (id) => id === voice);
  const one = { ...alone, tracks: alone.tracks.slice(0, 1) };
  const measuring = await seconds(() => measurePart(new PartRenderer(one, sources), one, 2, null, watch));
  return [
    [
      `Mixing and measuring one hour of four voices (${voices.length * piecesOfEach} pieces) and two beds that go round, in stereo, with ${points.length} level points`,
      `${mixing.toFixed(1)} s, ${Math.round(3600 / mixing)}× real time`,
      'at least 100×',
    ],
    [
      'Of this: one voice of the same by itself, in two channels',
      `${measuring.toFixed(1)} s`,
      'the limit of this machine',
    ],
    [
      `Writing ${points.length} level points for an hour of speech; finding the speech of one voice, of that hour`,
      `${(1000 * median(writing)).toFixed(1)} ms; ${(60 * listening).toFixed(1)} s, on two cores half of it`,
      'writing under 2 s',
    ],
  ];
}
