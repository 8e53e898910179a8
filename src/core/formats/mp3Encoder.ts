import { createMp3Encoder as createLibraryEncoder } from 'wasm-media-encoders';
import type { CreateMp3Encoder } from './soundFile';

/**
 * What LAME multiplies audio by at a constant bit rate, to keep coding from overshooting; measured with a 1
 * kHz tone.
 */
const lameScale = (kbps: number) => (kbps >= 256 ? 1 : kbps >= 224 ? 0.98 : kbps >= 192 ? 0.97 : 0.95);

/** A loop, since a mapping copy takes ten times as long. */
function scaled(samples: Float32Array, gain: number): Float32Array {
  const result = new Float32Array(samples.length);
  for (let i = 0; i < result.length; i++) result[i] = samples[i] * gain;
  return result;
}

/**
 * LAME as WebAssembly (wasm-media-encoders, MIT; LAME itself is LGPL). Two channels are coded as joint
 * stereo. LAME lowers the level a little at most constant bit rates; that is made good, so that a file is as
 * loud as what was measured.
 */
export const createMp3Encoder: CreateMp3Encoder = async ({ rateHz, channels, bitRateKbps, vbrQuality }) => {
  const encoder = await createLibraryEncoder();
  const rate = vbrQuality === null ? { bitrate: bitRateKbps as 192 } : { vbrQuality: vbrQuality as 2 };
  const gain = vbrQuality === null ? 1 / lameScale(bitRateKbps) : 1;
  encoder.configure({ channels: channels as 1, sampleRate: rateHz as 44_100, ...rate });
  return {
    encode: (audio) =>
      encoder.encode(gain === 1 ? [...audio] : audio.map((samples) => scaled(samples, gain))),
    finish: () => encoder.finalize(),
  };
};
