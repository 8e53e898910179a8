import { say } from '@/texts/say';
import { AudioSample, StreamTarget, type StreamTargetChunk } from 'mediabunny';
import type { Planar } from '@/core/base/audio';
import { within } from '@/core/base/waiting';
import type { ByteTarget } from '@/core/formats/bytes';

/** Bytes planned for a place stand there until they are filled in. */
export interface Planned {
  at: number;
  bytes: Uint8Array;
}

/**
 * A container library's target over ours: bytes come in order but for a few that are filled in at the end.
 */
export function streamInto(target: ByteTarget, planned: Planned | null = null): StreamTarget {
  let written = 0;
  return new StreamTarget(
    new WritableStream<StreamTargetChunk>({
      async write({ data, position }) {
        const beyond = position + data.length - written;
        const before = Math.max(0, data.length - Math.max(0, beyond));
        if (before > 0) await target.patch(position, data.subarray(0, before));
        if (beyond > 0) await target.write(withPlanned(data.subarray(before), position + before, planned));
        written = Math.max(written, position + data.length);
      },
    }),
  );
}

function withPlanned(data: Uint8Array, position: number, planned: Planned | null): Uint8Array {
  if (!planned) return data;
  const { at, bytes } = planned;
  const from = Math.max(position, at);
  const to = Math.min(position + data.length, at + bytes.length);
  if (to <= from) return data;
  const result = data.slice();
  result.set(bytes.subarray(from - at, to - at), from - position);
  return result;
}

/** An encoder takes two seconds of audio at a time; one that is silent for so long has died. */
const answerMs = 120_000;
export const cancelMs = 5000;
export const answered = <T>(step: Promise<T>): Promise<T> =>
  within(step, answerMs, say`The encoder does not answer. Export again, or choose another format.`);

/** Planar audio as an encoder takes it, from the beginning on. */
export async function* samplesOf(audio: AsyncIterable<Planar>, rateHz: number): AsyncGenerator<AudioSample> {
  let frames = 0;
  for await (const planar of audio) {
    const [{ length }] = planar;
    const data = new Float32Array(length * planar.length);
    planar.forEach((channel, index) => data.set(channel, index * length));
    yield new AudioSample({
      data,
      format: 'f32-planar',
      numberOfChannels: planar.length,
      sampleRate: rateHz,
      timestamp: frames / rateHz,
    });
    frames += length;
  }
}
