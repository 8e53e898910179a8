import { ALL_FORMATS, AudioSampleSink, BlobSource, Input, type AudioSample } from 'mediabunny';
import type { Planar } from '@/core/base/audio';
import { ParolaError } from '@/core/base/errors';
import { oggFrames } from '@/core/formats/oggLength';
import { soundKind, readSound, type Sound } from '@/core/formats/readSound';
import { BlobBytes } from './blobBytes';

/** What is read of any sound file; of those the browser decodes, the container's name stands for the kind. */
export type MediaSound = Omit<Sound, 'kind'> & { kind: string };

const unreadable = (name: string) =>
  new ParolaError(
    'not-audio',
    `“${name}” is no sound file that can be read here: WAV, AIFF, FLAC, MP3, M4A/AAC, Ogg and WebM can. Save it as one of these.`,
  );

/**
 * Decodes a sound file as it streams, at its own rate: WAV, AIFF, FLAC and MP3 by the application, anything
 * else by the browser's decoders. `onSound` is called once, before the first audio. Throws ParolaError
 * `not-audio`, `damaged-file` or `unsupported`.
 */
export async function* readMedia(file: File, onSound: (sound: MediaSound) => void): AsyncGenerator<Planar> {
  const source = new BlobBytes(file);
  if ((await soundKind(source)) === 'other') yield* decodeByBrowser(file, onSound);
  else yield* readSound(source, onSound);
}

/**
 * Decodes whatever the browser can, through a container library: M4A, AAC, Ogg, WebM, and WAV by another
 * reader than our own.
 */
export async function* decodeByBrowser(
  file: File,
  onSound: (sound: MediaSound) => void,
): AsyncGenerator<Planar> {
  const input = new Input({ formats: ALL_FORMATS, source: new BlobSource(file) });
  try {
    yield* decodeInput(input, file, onSound);
  } finally {
    input.dispose();
  }
}

async function* decodeInput(
  input: Input,
  file: File,
  onSound: (sound: MediaSound) => void,
): AsyncGenerator<Planar> {
  const track = await input.getPrimaryAudioTrack().catch(() => null);
  if (!track) throw unreadable(file.name);
  if (!(await track.canDecode()))
    throw new ParolaError(
      'unsupported',
      `This browser cannot decode “${file.name}” (${track.codec ?? 'an unknown coding'}). Save it as WAV or FLAC.`,
    );
  const { name } = await input.getFormat();
  const rateHz = track.sampleRate;
  const channels = track.numberOfChannels;
  const sound: MediaSound = {
    kind: name,
    rateHz,
    channels,
    frames: Math.round((await track.computeDuration()) * rateHz),
    truncated: false,
    damaged: false,
    notNumbers: 0,
    marks: [],
    origin: null,
  };
  const ends = (await oggFrames(new BlobBytes(file))) ?? Infinity;
  if (Number.isFinite(ends)) sound.frames = ends;
  onSound(sound);
  let frames = 0;
  try {
    for await (const sample of new AudioSampleSink(track).samples()) {
      // Encoders begin before the first frame: what lies there is their own delay.
      const skip = Math.min(sample.numberOfFrames, Math.max(0, Math.round(-sample.timestamp * rateHz)));
      const audio = skip < sample.numberOfFrames ? planar(sample, channels, skip) : null;
      sample.close();
      if (!audio || frames >= ends) continue;
      const left = Math.min(audio[0].length, ends - frames);
      frames += left;
      yield left === audio[0].length ? audio : audio.map((samples) => samples.slice(0, left));
    }
  } catch {
    // A file that is cut short gives what is whole.
    sound.truncated = true;
  }
}

function planar(sample: AudioSample, channels: number, skip: number): Float32Array<ArrayBuffer>[] {
  return Array.from({ length: channels }, (_, planeIndex) => {
    const samples = new Float32Array(sample.numberOfFrames - skip);
    sample.copyTo(samples, { planeIndex, format: 'f32-planar', frameOffset: skip });
    return samples;
  });
}
