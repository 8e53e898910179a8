import { createXXHash64 } from 'hash-wasm';
import type { Planar } from '../base/audio';
import { WavEncoder, type WavFormat } from './wavWriter';

/**
 * Turns audio into PCM as a file holds it and keeps a checksum of that: audio that was read from a lossless
 * file has the checksum of what was written just when every sample is the same. Any chunking gives the same.
 */
export class PcmDigest {
  private readonly encoder: WavEncoder;

  private constructor(
    format: WavFormat,
    private readonly hash: Awaited<ReturnType<typeof createXXHash64>>,
  ) {
    this.encoder = new WavEncoder(format);
    hash.init();
  }

  static async of(format: WavFormat): Promise<PcmDigest> {
    return new PcmDigest(format, await createXXHash64());
  }

  process(audio: Planar): Uint8Array<ArrayBuffer> {
    const bytes = this.encoder.process(audio);
    this.hash.update(bytes);
    return bytes;
  }

  /** Samples that stand in a file as this format has them. */
  update(bytes: Uint8Array): void {
    this.hash.update(bytes);
  }

  /** The pad byte RIFF wants after an odd data chunk; not in the checksum. */
  pad(): Uint8Array<ArrayBuffer> {
    return this.encoder.finish();
  }

  /** Ends it. */
  digest(): string {
    return this.hash.digest();
  }
}

/**
 * The checksum of audio that was read: its samples stand on the steps of the file's coding already, so
 * nothing is rounded or dithered.
 */
export const digestOfRead = (format: WavFormat) => PcmDigest.of({ ...format, dither: 'none' });
