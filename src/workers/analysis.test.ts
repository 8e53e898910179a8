import 'fake-indexeddb/auto';
import { blockFrames } from '@/core/base/audio';
import { spectrogram, spectrogramRows } from '@/core/dsp/spectrogram';
import { defaultFindingOptions } from '@/core/speech/findings';
import { concat, decodeWithFfmpeg, sine } from '@/core/testing/signals';
import type { Piece } from '@/core/timeline/pieces';
import { BlockWriter } from '@/storage/blocks';
import { findInRange } from './findInRange';
import { pictureOf } from './spectrogramTile';

const rateHz = 48_000;
const stair = decodeWithFfmpeg('public/demo/stair.mp3');

async function store(id: string, audio: Float32Array) {
  const writer = new BlockWriter(id, 1);
  for (let at = 0; at < audio.length; at += blockFrames)
    await writer.write([audio.slice(at, at + blockFrames)]);
  await writer.close();
}

const piece = (from: number, length: number): Piece => ({
  kind: 'audio',
  source: 'stair',
  channel: 0,
  from,
  length,
  gainDb: 0,
});
const context = () => ({ signal: new AbortController().signal, progress: () => undefined });
const find = (pieces: Piece[], from: number, to: number, marks: number[] = []) =>
  findInRange(
    {
      sounding: { tracks: [{ pieces }], joins: { joinFrames: 480 }, rateHz },
      sources: [{ id: 'stair', frames: stair.length }],
      range: { from, to },
      marks,
      options: { ...defaultFindingOptions, kinds: ['restart', 'clipped'] },
    },
    context(),
  );

beforeAll(() => store('stair', stair));

describe('looking through a range', () => {
  test('reports what begins in it, in heard frames; two halves together find what the whole does', async () => {
    const whole = await find([piece(0, stair.length)], 0, stair.length);
    expect(whole.findings.map(({ kind }) => kind)).toEqual(['restart', 'restart', 'clipped']);
    // 10.01 s and 22.942 s in public/demo/truth.csv, cut up to 0.12 s before.
    expect(Math.abs(whole.findings[0].from / rateHz - 9.95)).toBeLessThan(0.1);
    const cut = 15 * rateHz;
    const halves = [
      await find([piece(0, stair.length)], 0, cut),
      await find([piece(0, stair.length)], cut, stair.length),
    ];
    const together = halves.flatMap(({ findings }) => findings);
    expect(together.map(({ kind }) => kind)).toEqual(whole.findings.map(({ kind }) => kind));
    together.forEach(({ from, to }, index) => {
      expect(Math.abs(from - whole.findings[index].from)).toBeLessThan(0.02 * rateHz);
      expect(Math.abs(to - whole.findings[index].to)).toBeLessThan(0.02 * rateHz);
    });
    const speech = halves.flatMap((half) => half.speech);
    expect(Math.abs(speech.length - whole.speech.length)).toBeLessThanOrEqual(1);
  });

  test('looks at what is heard only, in its time', async () => {
    const { findings } = await find(
      [piece(5 * rateHz, stair.length - 5 * rateHz)],
      0,
      stair.length - 5 * rateHz,
    );
    expect(Math.abs(findings[0].from / rateHz - 4.95)).toBeLessThan(0.1);
  });

  test('a mark makes a finding a marked one', async () => {
    const marked = await find([piece(0, stair.length)], 0, stair.length, [24 * rateHz]);
    expect(marked.findings.filter(({ kind }) => kind === 'restart').map((one) => one.marked)).toEqual([
      true,
      true,
    ]);
    const plain = await find([piece(0, stair.length)], 0, stair.length);
    // The first one has its clap, the second one nothing.
    expect(plain.findings.filter(({ kind }) => kind === 'restart').map((one) => one.marked)).toEqual([
      true,
      false,
    ]);
  });

  test('stops when it is told to', async () => {
    const controller = new AbortController();
    controller.abort();
    const input = {
      sounding: { tracks: [{ pieces: [piece(0, stair.length)] }], joins: { joinFrames: 480 }, rateHz },
      sources: [{ id: 'stair', frames: stair.length }],
      range: { from: 0, to: stair.length },
      marks: [],
      options: defaultFindingOptions,
    };
    await expect(
      findInRange(input, { signal: controller.signal, progress: () => undefined }),
    ).rejects.toMatchObject({ code: 'cancelled' });
  });
});

describe('a tile of a spectrogram', () => {
  const audio = concat(sine(rateHz, 2, 440, -20), sine(rateHz, 2, 3000, -20));
  const tile = (from: number, columns: number, framesPerColumn: number) =>
    pictureOf({
      source: 'tones',
      channel: 0,
      sourceFrames: audio.length,
      rateHz,
      from,
      columns,
      framesPerColumn,
    });
  beforeAll(() => store('tones', audio));

  test('is the spectrogram of the source, wherever the tile begins', async () => {
    const whole = spectrogram(audio, rateHz, 0, 300, 512);
    const part = await tile(100 * 512, 50, 512);
    expect([...part]).toEqual([...whole.slice(100 * spectrogramRows, 150 * spectrogramRows)]);
  });

  test('far apart columns are the same as near ones at their places; beyond the end it is dark', async () => {
    const sparse = await tile(0, 40, 8192);
    const near = await tile(0, 80, 4096);
    const column = (picture: Uint8Array, index: number) => [
      ...picture.slice(index * spectrogramRows, (index + 1) * spectrogramRows),
    ];
    const brightest = (values: number[]) => values.indexOf(Math.max(...values));
    for (const index of [2, 5, 15, 20])
      expect(brightest(column(sparse, index))).toBe(brightest(column(near, index * 2)));
    expect(Math.max(...column(sparse, 39))).toBe(0);
  });
});
