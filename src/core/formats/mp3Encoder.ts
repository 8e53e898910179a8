import { createMp3Encoder as createLibraryEncoder } from 'wasm-media-encoders';
import type { CreateMp3Encoder } from './soundFile';

/** LAME as WebAssembly (wasm-media-encoders, MIT; LAME itself is LGPL). Two channels are coded as joint stereo. */
export const createMp3Encoder: CreateMp3Encoder = async ({ rateHz, channels, bitRateKbps, vbrQuality }) => {
  const encoder = await createLibraryEncoder();
  const rate = vbrQuality === null ? { bitrate: bitRateKbps as 192 } : { vbrQuality: vbrQuality as 2 };
  encoder.configure({ channels: channels as 1, sampleRate: rateHz as 44_100, ...rate });
  return {
    encode: (audio) => encoder.encode([...audio]),
    finish: () => encoder.finalize(),
  };
};
