import { createMp3Encoder as createLibraryEncoder } from 'wasm-media-encoders';
import type { CreateMp3Encoder } from './soundFile';

/** LAME as WebAssembly (wasm-media-encoders, MIT; LAME itself is LGPL). */
export const createMp3Encoder: CreateMp3Encoder = async ({ rateHz, bitRateKbps }) => {
  const encoder = await createLibraryEncoder();
  encoder.configure({ channels: 1, sampleRate: rateHz as 44_100, bitrate: bitRateKbps as 192 });
  return {
    encode: (samples) => encoder.encode([samples]),
    finish: () => encoder.finalize(),
  };
};
