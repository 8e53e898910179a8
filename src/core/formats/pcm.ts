import { exhaustive } from '../base/errors';
import { kernels } from '../dsp/kernels';
import { viewOf } from './bytes';

export const sampleTypes = ['u8', 's8', 's16', 's24', 's32', 'f32', 'f64', 'alaw', 'ulaw'] as const;
export type SampleType = (typeof sampleTypes)[number];

/** How samples lie in bytes: interleaved, all channels of a frame side by side. */
export interface PcmLayout {
  sampleType: SampleType;
  channels: number;
  bigEndian: boolean;
}

/** Counts what a file of floating-point samples holds that is infinite or no number. */
export interface NumberTally {
  notNumbers: number;
}

const widths: Record<SampleType, number> = {
  u8: 1,
  s8: 1,
  s16: 2,
  s24: 3,
  s32: 4,
  f32: 4,
  f64: 8,
  alaw: 1,
  ulaw: 1,
};

/** Bytes of one frame: all channels. */
export const frameBytesOf = ({ sampleType, channels }: Pick<PcmLayout, 'sampleType' | 'channels'>) =>
  widths[sampleType] * channels;

/**
 * Planar samples of interleaved bytes; integers are scaled by 1/2^(bits−1); a last frame that is not whole is
 * left out. What is infinite or no number at all would spread through every filter: it is silence, and
 * counted in `tally`.
 */
export function decodeFrames(
  bytes: Uint8Array,
  layout: PcmLayout,
  tally: NumberTally = { notNumbers: 0 },
): Float32Array<ArrayBuffer>[] {
  const frames = Math.floor(bytes.length / frameBytesOf(layout));
  if (layout.sampleType === 's24' && !layout.bigEndian) {
    const audio = Array.from({ length: layout.channels }, () => new Float32Array(frames));
    kernels().unpack24(bytes, audio);
    return audio;
  }
  return Array.from({ length: layout.channels }, (_, channel) => {
    const samples = new Float32Array(frames);
    tally.notNumbers += readSamples(
      samples,
      bytes,
      layout,
      channel * widths[layout.sampleType],
      frameBytesOf(layout),
    );
    return samples;
  });
}

/**
 * A loop for each coding: hours of audio go through here. Reads every `stride` bytes from `at` on. Returns
 * how many samples are no finite numbers.
 */
function readSamples(
  samples: Float32Array,
  bytes: Uint8Array,
  { sampleType, bigEndian }: PcmLayout,
  at: number,
  stride: number,
): number {
  const view = viewOf(bytes);
  const little = !bigEndian;
  const count = samples.length;
  switch (sampleType) {
    case 'u8':
      for (let i = 0; i < count; i++, at += stride) samples[i] = (bytes[at] - 128) / 128;
      return 0;
    case 's8':
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getInt8(at) / 128;
      return 0;
    case 's16':
      if (little && onWords(bytes, at, stride)) {
        const words = new Int16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1);
        for (let i = 0, word = at >> 1; i < count; i++, word += stride >> 1) samples[i] = words[word] / 32768;
        return 0;
      }
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getInt16(at, little) / 32768;
      return 0;
    // Those of the other order are the kernels'.
    case 's24':
      for (let i = 0; i < count; i++, at += stride)
        samples[i] = ((bytes[at] << 24) | (bytes[at + 1] << 16) | (bytes[at + 2] << 8)) / 2147483648;
      return 0;
    case 's32':
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getInt32(at, little) / 2147483648;
      return 0;
    case 'f32':
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getFloat32(at, little);
      return silenceNoNumbers(samples);
    case 'f64':
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getFloat64(at, little);
      return silenceNoNumbers(samples);
    case 'alaw':
      for (let i = 0; i < count; i++, at += stride) samples[i] = aLaw[bytes[at]];
      return 0;
    case 'ulaw':
      for (let i = 0; i < count; i++, at += stride) samples[i] = muLaw[bytes[at]];
      return 0;
    default:
      return exhaustive(sampleType);
  }
}

/** This machine has its lowest byte first, as nearly all have. */
const isLittleEndian = new Uint8Array(Uint16Array.of(1).buffer)[0] === 1;

/** Words of 16 bits can be looked at as such. */
const onWords = (bytes: Uint8Array, at: number, stride: number) =>
  isLittleEndian && (bytes.byteOffset | at | stride) % 2 === 0;

function silenceNoNumbers(samples: Float32Array): number {
  let found = 0;
  for (let i = 0; i < samples.length; i++) {
    if (samples[i] - samples[i] === 0) continue;
    samples[i] = 0;
    found++;
  }
  return found;
}

/** ITU-T G.711, tables 1a and 1b, as 16-bit values scaled to ±1; from memory, confirmed with sox. */
const aLaw = Float32Array.from({ length: 256 }, (_, code) => {
  const bits = code ^ 0x55;
  const segment = (bits & 0x70) >> 4;
  const step = ((bits & 0x0f) << 4) + (segment === 0 ? 8 : 0x108);
  const value = segment > 1 ? step << (segment - 1) : step;
  return (bits & 0x80 ? value : -value) / 32768;
});

const muLaw = Float32Array.from({ length: 256 }, (_, code) => {
  const bits = ~code & 0xff;
  const value = ((((bits & 0x0f) << 3) + 0x84) << ((bits & 0x70) >> 4)) - 0x84;
  return (bits & 0x80 ? -value : value) / 32768;
});
