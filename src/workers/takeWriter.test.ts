import { blockFrames } from '@/core/base/audio';
import { ParolaError } from '@/core/base/errors';
import { createRing, RingLevels, RingReader, RingWriter } from '@/core/base/ring';
import { chunksOf, concat, firstDifference, noise } from '@/core/testing/signals';
import { computePeaks } from '@/core/timeline/peaks';
import { TakeWriter } from './takeWriter';

describe('the take writer', () => {
  test('stores every frame once, in blocks, and gives peaks that equal those of the whole take', async () => {
    const audio = noise(blockFrames * 2 + 5000, -20, 1);
    const handle = 1000;
    const stored: Float32Array[] = [];
    const writer = new TakeWriter('s', 1, handle, async (index, [block]) => {
      await new Promise((resolve) => setTimeout(resolve, index === 0 ? 20 : 0));
      stored[index] = block;
    });
    const peaks = [...chunksOf(audio, 3000, 4)].map((chunk) => writer.append([chunk], 0, chunk.length));
    const take = await writer.finish(audio.length - handle - 500, 0);
    expect(firstDifference(concat(...stored), audio)).toBe(-1);
    expect(take).toEqual({
      sourceId: 's',
      frames: audio.length,
      handleFrames: handle,
      length: audio.length - handle - 500,
      overrunFrames: 0,
    });
    // Until a block is full, peaks lag by less than one peak; at block ends none is left out.
    const live = concat(...peaks.map(([first]) => first ?? new Float32Array(0)));
    const firstBlock = computePeaks(audio.subarray(handle, blockFrames));
    expect(firstDifference(live.subarray(0, firstBlock.length), firstBlock)).toBe(-1);
  });

  test('after a failed write nothing more is stored, and the take is what is on disk', async () => {
    const stored: number[] = [];
    const writer = new TakeWriter('s', 1, 0, async (index) => {
      if (index === 1) throw new DOMException('full', 'QuotaExceededError');
      stored.push(index);
    });
    const audio = noise(blockFrames * 4, -20, 1);
    writer.append([audio], 0, audio.length);
    const take = await writer.finish(audio.length, 0);
    expect(stored).toEqual([0]);
    expect(take).toMatchObject({ frames: blockFrames, length: blockFrames });
    expect(writer.failure).toBeInstanceOf(ParolaError);
    expect(writer.failure?.code).toBe('storage-full');
  });
});

describe('the ring', () => {
  test('frames come out as they went in, over many turns', () => {
    const memory = createRing(1, 1000);
    const writer = new RingWriter(memory);
    const reader = new RingReader(memory);
    const audio = noise(50_000, -20, 2);
    const output = new Float32Array(audio.length);
    let read = 0;
    let number = 0;
    for (const chunk of chunksOf(audio, 128, 5)) {
      expect(writer.write([chunk], chunk.length)).toBe(true);
      if (++number % 5 === 0) read += reader.read([output], read, 1000);
    }
    read += reader.read([output], read, 2000);
    expect(read).toBe(audio.length);
    expect(firstDifference(output, audio)).toBe(-1);
    expect(reader.overrunFrames).toBe(0);
  });

  test('when the reader falls behind, frames are dropped and counted, never written over', () => {
    const memory = createRing(1, 512);
    const writer = new RingWriter(memory);
    const reader = new RingReader(memory);
    const block = new Float32Array(128).fill(0.5);
    for (let i = 0; i < 4; i++) expect(writer.write([block], 128)).toBe(true);
    expect(writer.write([new Float32Array(128).fill(0.9)], 128)).toBe(false);
    expect(reader.overrunFrames).toBe(128);
    const output = new Float32Array(1024);
    expect(reader.read([output], 0, 1024)).toBe(512);
    expect(output.subarray(0, 512).every((value) => value === 0.5)).toBe(true);
  });

  test('levels tell peak, power and clipped samples without taking audio away', () => {
    const memory = createRing(1, 4096);
    const writer = new RingWriter(memory);
    const levels = new RingLevels(memory);
    expect(levels.take()).toBeNull();
    writer.write([new Float32Array(128).fill(0.5)], 128);
    writer.write([Float32Array.of(1, -1, ...new Float32Array(126))], 128);
    expect(levels.take()).toEqual({ peak: 1, meanSquare: (0.25 + 2 / 128) / 2, clipped: 2 });
    expect(new RingReader(memory).availableFrames).toBe(256);
  });

  test('positions on the audio clock pass 2³¹ frames', () => {
    const memory = createRing(1, 256);
    new RingWriter(memory).setStartFrame(5_000_000_123);
    expect(new RingReader(memory).startFrame).toBe(5_000_000_123);
  });
});
