import type { Planar } from '../base/audio';
import { Resampler } from '../dsp/resampler';
import { Meter, type Measurement } from '../loudness/measure';
import type { FileFormat } from '../specs/fileFormat';
import { aiffHeader, swapBytes } from './aiff';
import { bextChunk, bextLoudness, type BroadcastInfo } from './bext';
import { joinBytes, type ByteTarget } from './bytes';
import type { FileMark } from './fileMarks';
import { id3Tag, type Chapter, type Cover, type SoundTags } from './id3';
import { Mp3FrameCounter, infoFrame, infoFrameBytes, mp3FramesOf } from './mp3Info';
import { wavMarkChunks } from './wavMarks';
import { PcmDigest } from './pcmDigest';
import { wavHeader, type WavFormat } from './wavWriter';

/** An MP3 encoder for one file: MPEG-1 Layer III. */
export interface Mp3Encoder {
  encode(audio: Planar): Uint8Array;
  finish(): Uint8Array;
}
export type CreateMp3Encoder = (
  settings: Pick<FileFormat, 'rateHz' | 'channels' | 'bitRateKbps' | 'vbrQuality'>,
) => Promise<Mp3Encoder>;

/** Whole integer samples, interleaved, as a WAV file would hold them. */
export interface PcmStream {
  bytes: AsyncIterable<Uint8Array<ArrayBuffer>>;
  bytesPerSample: 2 | 3;
  rateHz: number;
  channels: number;
}

/** What codes are written by, where this module cannot do it itself; given by whoever has the libraries. */
export interface Encoders {
  createMp3: CreateMp3Encoder;
  writeFlac?: (pcm: PcmStream, target: ByteTarget) => Promise<void>;
  writeOpus?: (audio: AsyncIterable<Planar>, format: FileFormat, target: ByteTarget) => Promise<void>;
}

export interface SoundFileSettings {
  format: FileFormat;
  /** Of the audio that comes in; it has as many channels as the format. */
  rateHz: number;
  /** Frames that will come in; the header is written first. */
  frames: number;
  /** Makes a WAV a Broadcast WAV; other files carry none. */
  broadcast?: BroadcastInfo;
  /** In frames of the audio that comes in: cue points of a WAV, chapters of an MP3. */
  marks?: readonly FileMark[];
  tags?: SoundTags;
  cover?: Cover;
}

export interface WrittenSound {
  /** Frames the file holds. */
  frames: number;
  /** Of all samples, as `PcmDigest` makes it; null where the coding is lossy. */
  digest: string | null;
}

/** The length after conversion to the file's rate. */
export const fileFrames = ({ format, rateHz, frames }: SoundFileSettings) =>
  format.rateHz === rateHz ? frames : new Resampler(rateHz, format.rateHz).outputFrames(frames);

/** Marks at the file's rate. */
export const fileMarks = ({ marks = [], rateHz, format }: SoundFileSettings): FileMark[] =>
  marks.map(({ at, length, name }) => ({
    at: Math.round((at * format.rateHz) / rateHz),
    length: Math.round((length * format.rateHz) / rateHz),
    name,
  }));

/** Audio at the rate the file has; any chunking gives the same. */
export const atFileRate = (
  chunks: AsyncIterable<Planar>,
  settings: Pick<SoundFileSettings, 'format' | 'rateHz'>,
): AsyncIterable<Planar> =>
  settings.format.rateHz === settings.rateHz ? chunks : resampled(chunks, settings);

/**
 * Writes audio as a file of the given format, converting the sample rate where the format wants another one.
 * Streams; any chunking gives the same bytes.
 */
export const writeSoundFile = (
  chunks: AsyncIterable<Planar>,
  settings: SoundFileSettings,
  target: ByteTarget,
  encoders: Encoders,
): Promise<WrittenSound> => writeAtFileRate(atFileRate(chunks, settings), settings, target, encoders);

/** As `writeSoundFile`, of audio that has the file's rate already. */
export async function writeAtFileRate(
  converted: AsyncIterable<Planar>,
  settings: SoundFileSettings,
  target: ByteTarget,
  encoders: Encoders,
): Promise<WrittenSound> {
  const { format } = settings;
  // Only a Broadcast WAV says what it measures; any other is measured when it is read back.
  const meter =
    format.container === 'wav' && settings.broadcast ? new Meter(format.rateHz, format.channels) : null;
  let frames = 0;
  async function* counted() {
    for await (const audio of converted) {
      if (audio[0].length === 0) continue;
      meter?.process(audio);
      frames += audio[0].length;
      yield audio;
    }
  }
  const digest = await writeCoded(counted(), settings, target, encoders);
  const expected = fileFrames(settings);
  if (frames !== expected) throw new Error(`The header says ${expected} frames, ${frames} were written`);
  if (meter) await patchLoudness(settings, meter.finish(), target);
  return { frames, digest };
}

/** Resolves with the checksum of the samples; null where the coding is lossy. */
async function writeCoded(
  audio: AsyncIterable<Planar>,
  settings: SoundFileSettings,
  target: ByteTarget,
  encoders: Encoders,
): Promise<string | null> {
  const { format } = settings;
  switch (format.container) {
    case 'wav':
      return writeWav(audio, settings, target);
    case 'aiff':
      return writeAiff(audio, settings, target);
    case 'flac':
      return writeFlac(audio, format, target, encoders);
    case 'mp3':
      await writeMp3(audio, settings, target, encoders.createMp3);
      return null;
    case 'opus':
      if (!encoders.writeOpus) throw new RangeError('There is no Opus encoder here');
      await encoders.writeOpus(audio, format, target);
      return null;
  }
}

async function* resampled(
  chunks: AsyncIterable<Planar>,
  { rateHz, format }: Pick<SoundFileSettings, 'format' | 'rateHz'>,
) {
  const resamplers = Array.from({ length: format.channels }, () => new Resampler(rateHz, format.rateHz));
  for await (const audio of chunks)
    yield resamplers.map((resampler, channel) => resampler.process(audio[channel]));
  yield resamplers.map((resampler) => resampler.flush());
}

export const wavFormat = ({ encoding, rateHz, channels, dither }: FileFormat): WavFormat => ({
  encoding,
  rateHz,
  channels,
  dither: dither && encoding === 'pcm16' ? 'tpdf' : 'none',
});

async function writeWav(
  chunks: AsyncIterable<Planar>,
  settings: SoundFileSettings,
  target: ByteTarget,
): Promise<string> {
  const format = wavFormat(settings.format);
  const marks = settings.format.marks ? wavMarkChunks(fileMarks(settings)) : new Uint8Array(0);
  const bext = settings.broadcast && bextChunk(settings.broadcast);
  await target.write(wavHeader(format, fileFrames(settings), bext, marks.length));
  const pcm = await PcmDigest.of(format);
  for await (const audio of chunks) await target.write(pcm.process(audio));
  await target.write(pcm.pad());
  await target.write(marks);
  return pcm.digest();
}

/** `bext` stands right after the form's header, or after the `ds64` of a large file. */
async function patchLoudness(settings: SoundFileSettings, measured: Measurement, target: ByteTarget) {
  const header = wavHeader(wavFormat(settings.format), fileFrames(settings));
  const bextAt = header[1] === 0x46 ? 48 : 12;
  const { offset, bytes } = bextLoudness({
    integratedLufs: measured.integratedLufs,
    rangeLu: measured.loudnessRangeLu,
    truePeakDbtp: measured.truePeakDbtp,
    momentaryMaxLufs: measured.momentaryMaxLufs,
    shortTermMaxLufs: measured.shortTermMaxLufs,
  });
  await target.patch(bextAt + offset, bytes);
}

async function writeAiff(
  chunks: AsyncIterable<Planar>,
  settings: SoundFileSettings,
  target: ByteTarget,
): Promise<string> {
  const format = wavFormat(settings.format);
  const { rateHz, channels } = format;
  const bytesPerSample = pcmBytes(format);
  await target.write(aiffHeader({ rateHz, channels, bytesPerSample }, fileFrames(settings)));
  const pcm = await PcmDigest.of(format);
  for await (const audio of chunks) {
    const bytes = pcm.process(audio);
    swapBytes(bytes, bytesPerSample);
    await target.write(bytes);
  }
  await target.write(pcm.pad());
  return pcm.digest();
}

async function writeFlac(
  chunks: AsyncIterable<Planar>,
  fileFormat: FileFormat,
  target: ByteTarget,
  encoders: Encoders,
): Promise<string> {
  if (!encoders.writeFlac) throw new RangeError('There is no FLAC encoder here');
  const format = wavFormat(fileFormat);
  const { rateHz, channels } = format;
  const pcm = await PcmDigest.of(format);
  async function* bytes() {
    for await (const audio of chunks) yield pcm.process(audio);
  }
  await encoders.writeFlac({ bytes: bytes(), bytesPerSample: pcmBytes(format), rateHz, channels }, target);
  return pcm.digest();
}

const pcmBytes = ({ encoding }: WavFormat) => (encoding === 'pcm16' ? 2 : 3);

/** Marks become chapters: each lasts until the next one. */
function chaptersOf(settings: SoundFileSettings): Chapter[] {
  const { marks = [], rateHz, frames } = settings;
  const ms = (frame: number) => Math.round((frame * 1000) / rateHz);
  return marks.map(({ at, name }, index) => ({
    fromMs: ms(at),
    toMs: ms(marks[index + 1]?.at ?? frames),
    title: name,
  }));
}

/** The tag that stands before the audio of an MP3; empty without one. */
export function tagOf(settings: SoundFileSettings): Uint8Array {
  const { tags, cover, format } = settings;
  if (!tags) return new Uint8Array(0);
  return id3Tag(tags, format.marks ? chaptersOf(settings) : [], cover ?? null);
}

async function writeMp3(
  chunks: AsyncIterable<Planar>,
  settings: SoundFileSettings,
  target: ByteTarget,
  createMp3: CreateMp3Encoder,
) {
  const { format } = settings;
  const encoder = await createMp3(format);
  const counter = new Mp3FrameCounter();
  const tag = tagOf(settings);
  const variable = format.vbrQuality !== null;
  await target.write(tag);
  const expected = fileFrames(settings);
  let frames = 0;
  let held: Uint8Array | null = new Uint8Array(0);
  const begin = async (info: Uint8Array) => {
    await target.write(info);
    if (held) await target.write(held);
    held = null;
  };
  const put = async (bytes: Uint8Array) => {
    counter.process(bytes);
    const { first } = counter;
    // It says how many frames there will be: who reads along knows where the sound begins and ends.
    const planned = { first, frames: mp3FramesOf(expected), bytes: 0, checksum: 0, starts: [] };
    if (held && first) await begin(infoFrame(planned, expected, format.vbrQuality));
    if (held) held = joinBytes([held, bytes]);
    else await target.write(bytes);
  };
  for await (const audio of chunks) {
    frames += audio[0].length;
    await put(encoder.encode(audio).slice());
  }
  await put(encoder.finish().slice());
  if (held) await begin(new Uint8Array(infoFrameBytes(format, variable)));
  if (counter.first && counter.first.header.rateHz !== format.rateHz)
    throw new Error(`The encoder wrote ${counter.first.header.rateHz} Hz instead of ${format.rateHz} Hz`);
  if (counter.first) await target.patch(tag.length, infoFrame(counter, frames, format.vbrQuality));
}
