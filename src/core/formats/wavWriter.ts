import type { Planar } from '../base/audio';
import { Quantizer, type Dither } from '../dsp/dither';
import { kernels } from '../dsp/kernels';
import { ascii, viewOf } from './bytes';

export const wavEncodings = ['pcm16', 'pcm24', 'float32'] as const;
export type WavEncoding = (typeof wavEncodings)[number];

export interface WavFormat {
  encoding: WavEncoding;
  rateHz: number;
  channels: number;
  /** Used for pcm16 and pcm24; float32 is written as it is. */
  dither: Dither;
}

export const bytesPerSample = (encoding: WavEncoding) => ({ pcm16: 2, pcm24: 3, float32: 4 })[encoding];

/**
 * The header of a WAV file with exactly `frames` frames: RIFF (Multimedia Programming Interface and Data
 * Specifications 1.0), with a `fact` chunk for float; RF64 with `ds64` (EBU Tech 3306) where the sizes pass
 * 32 bits. `chunks` are whole chunks that stand before the format, as `bext` does; `tailBytes` of further
 * whole chunks come after the audio.
 */
export function wavHeader(
  { encoding, rateHz, channels }: WavFormat,
  frames: number,
  chunks: Uint8Array = new Uint8Array(0),
  tailBytes = 0,
): Uint8Array<ArrayBuffer> {
  const frameBytes = bytesPerSample(encoding) * channels;
  const dataBytes = frames * frameBytes;
  const float = encoding === 'float32';
  const plainBytes = 12 + chunks.length + 24 + (float ? 14 : 0) + 8;
  const large = plainBytes + dataBytes + 1 + tailBytes > 0xffff_ffff;
  const bytes = new Uint8Array(plainBytes + (large ? 36 : 0));
  const view = viewOf(bytes);
  const riffBytes = bytes.length - 8 + dataBytes + (dataBytes % 2) + tailBytes;
  let at = 0;
  const tag = (text: string) => {
    bytes.set(ascii(text), at);
    at += 4;
  };
  const u16 = (value: number) => {
    view.setUint16(at, value, true);
    at += 2;
  };
  const u32 = (value: number) => {
    view.setUint32(at, value, true);
    at += 4;
  };
  const u64 = (value: number) => {
    view.setBigUint64(at, BigInt(value), true);
    at += 8;
  };
  tag(large ? 'RF64' : 'RIFF');
  u32(large ? 0xffff_ffff : riffBytes);
  tag('WAVE');
  if (large) {
    tag('ds64');
    u32(28);
    u64(riffBytes);
    u64(dataBytes);
    u64(frames);
    u32(0);
  }
  bytes.set(chunks, at);
  at += chunks.length;
  tag('fmt ');
  u32(float ? 18 : 16);
  u16(float ? 3 : 1);
  u16(channels);
  u32(rateHz);
  u32(rateHz * frameBytes);
  u16(frameBytes);
  u16(bytesPerSample(encoding) * 8);
  if (float) {
    u16(0);
    tag('fact');
    u32(4);
    u32(large ? 0xffff_ffff : frames);
  }
  tag('data');
  u32(large ? 0xffff_ffff : dataBytes);
  return bytes;
}

/**
 * Turns planar audio into the data chunk's interleaved little-endian samples; any chunking gives the same
 * bytes.
 */
export class WavEncoder {
  private readonly quantizers: Quantizer[];
  private written = 0;

  constructor(private readonly format: WavFormat) {
    const { encoding, channels, dither } = format;
    this.quantizers =
      encoding === 'float32'
        ? []
        : Array.from(
            { length: channels },
            (_, channel) => new Quantizer(encoding === 'pcm16' ? 16 : 24, dither, channel + 1),
          );
  }

  process(audio: Planar): Uint8Array<ArrayBuffer> {
    const { channels, encoding, dither } = this.format;
    const width = bytesPerSample(encoding);
    const bytes = new Uint8Array(audio[0].length * channels * width);
    this.written += bytes.length;
    if (encoding === 'pcm24' && dither === 'none') {
      kernels().pack24(audio, bytes);
      return bytes;
    }
    const view = viewOf(bytes);
    for (let channel = 0; channel < channels; channel++) {
      const samples = audio[channel];
      if (encoding === 'float32') {
        for (let i = 0; i < samples.length; i++)
          view.setFloat32((i * channels + channel) * 4, samples[i], true);
        continue;
      }
      const integers = new Int32Array(samples.length);
      this.quantizers[channel].process(samples, integers);
      for (let i = 0; i < integers.length; i++) {
        const at = (i * channels + channel) * width;
        bytes[at] = integers[i] & 0xff;
        bytes[at + 1] = (integers[i] >> 8) & 0xff;
        if (width === 3) bytes[at + 2] = (integers[i] >> 16) & 0xff;
      }
    }
    return bytes;
  }

  /** The pad byte RIFF wants after an odd data chunk. */
  finish(): Uint8Array<ArrayBuffer> {
    return new Uint8Array(this.written % 2);
  }
}
