import { Resampler } from '../dsp/resampler';
import type { FileFormat } from '../specs/fileFormat';
import { bextChunk, type BroadcastInfo } from './bext';
import type { ByteTarget } from './bytes';
import { Mp3FrameCounter, infoFrame, infoFrameBytes } from './mp3Info';
import { WavEncoder, bytesPerSample, wavHeader } from './wavWriter';

/** An MP3 encoder for one mono file: MPEG-1 Layer III at a constant bit rate. */
export interface Mp3Encoder {
  encode(samples: Float32Array): Uint8Array;
  finish(): Uint8Array;
}
export type CreateMp3Encoder = (settings: { rateHz: number; bitRateKbps: number }) => Promise<Mp3Encoder>;

export interface SoundFileSettings {
  format: FileFormat;
  /** Of the audio that comes in. */
  rateHz: number;
  /** Frames that will come in; the header is written first. */
  frames: number;
  /** Makes a WAV a Broadcast WAV; other files carry none. */
  broadcast?: BroadcastInfo;
}

/** The length after conversion to the file's rate. */
export const fileFrames = ({ format, rateHz, frames }: SoundFileSettings) =>
  format.rateHz === rateHz ? frames : new Resampler(rateHz, format.rateHz).outputFrames(frames);

/** Bytes the file will have; exact for WAV, within two frames for MP3. */
export function predictBytes(settings: SoundFileSettings): number {
  const { format } = settings;
  const frames = fileFrames(settings);
  if (format.container === 'wav') {
    const wav = { encoding: format.encoding, rateHz: format.rateHz, channels: 1, dither: 'none' as const };
    const data = frames * bytesPerSample(format.encoding);
    const chunks = settings.broadcast && bextChunk(settings.broadcast);
    return wavHeader(wav, frames, chunks).length + data + (data % 2);
  }
  return Math.round(((frames / format.rateHz) * format.bitRateKbps * 1000) / 8) + 2 * infoFrameBytes(format);
}

/**
 * Writes mono audio as a file of the given format, converting the sample rate where the format wants another one. Streams; any
 * chunking gives the same bytes. Returns the number of frames the file holds.
 */
export async function writeSoundFile(
  chunks: AsyncIterable<Float32Array>,
  settings: SoundFileSettings,
  target: ByteTarget,
  createMp3Encoder: CreateMp3Encoder,
): Promise<number> {
  const converted = settings.format.rateHz === settings.rateHz ? chunks : resampled(chunks, settings);
  return settings.format.container === 'wav'
    ? writeWav(converted, settings, target)
    : writeMp3(converted, settings, target, createMp3Encoder);
}

async function* resampled(chunks: AsyncIterable<Float32Array>, { rateHz, format }: SoundFileSettings) {
  const resampler = new Resampler(rateHz, format.rateHz);
  for await (const chunk of chunks) yield resampler.process(chunk);
  yield resampler.flush();
}

async function writeWav(
  chunks: AsyncIterable<Float32Array>,
  settings: SoundFileSettings,
  target: ByteTarget,
) {
  const { encoding, rateHz, dither } = settings.format;
  const format = {
    encoding,
    rateHz,
    channels: 1,
    dither: dither && encoding === 'pcm16' ? ('tpdf' as const) : ('none' as const),
  };
  const frames = fileFrames(settings);
  await target.write(wavHeader(format, frames, settings.broadcast && bextChunk(settings.broadcast)));
  const encoder = new WavEncoder(format);
  let written = 0;
  for await (const chunk of chunks) {
    await target.write(encoder.process([chunk]));
    written += chunk.length;
  }
  await target.write(encoder.finish());
  if (written !== frames) throw new Error(`The header says ${frames} frames, ${written} were written`);
  return written;
}

async function writeMp3(
  chunks: AsyncIterable<Float32Array>,
  { format }: SoundFileSettings,
  target: ByteTarget,
  createMp3Encoder: CreateMp3Encoder,
) {
  const encoder = await createMp3Encoder(format);
  const counter = new Mp3FrameCounter();
  await target.write(new Uint8Array(infoFrameBytes(format)));
  let frames = 0;
  const put = async (bytes: Uint8Array) => {
    counter.process(bytes);
    await target.write(bytes);
  };
  for await (const chunk of chunks) {
    frames += chunk.length;
    await put(encoder.encode(chunk).slice());
  }
  await put(encoder.finish().slice());
  if (counter.first) await target.patch(0, infoFrame(counter, frames));
  return frames;
}
