import { say } from '@/texts/say';
import { ALL_FORMATS, AudioSampleSink, BlobSource, Input, type AudioSample } from 'mediabunny';
import type { Planar } from '@/core/base/audio';
import { ParolaError } from '@/core/base/errors';
import { oggEnd, type OggEnd } from '@/core/formats/oggEnd';
import { soundKind, readSound, type Sound } from '@/core/formats/readSound';
import { BlobBytes } from './blobBytes';

/** Containers state lengths to a packet or two; what is missing beyond that has been cut off. */
const missingSeconds = 0.5;

/** What is read of any sound file; of those the browser decodes, the container's name stands for the kind. */
export type MediaSound = Omit<Sound, 'kind'> & { kind: string };

const unreadable = (name: string) =>
  new ParolaError(
    'not-audio',
    say`“${name}” is no sound file that can be read here: WAV, AIFF, FLAC, MP3, M4A/AAC, Ogg and WebM can. Save it as one of these.`,
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
  const ogg = await oggEnd(new BlobBytes(file));
  // The library gives up on a page that is cut off; all before it is whole.
  const whole = ogg ? file.slice(0, ogg.bytes) : file;
  const input = new Input({ formats: ALL_FORMATS, source: new BlobSource(whole) });
  try {
    yield* decodeInput(input, file.name, ogg, onSound);
  } finally {
    input.dispose();
  }
}

/** Samples from frame `at` on. */
export interface Spot {
  at: number;
  audio: Float32Array[];
}

/**
 * What the container library says of a file, and at most `count` frames that it finds at each of these
 * places. Throws ParolaError `not-audio` where it finds no sound.
 */
export async function spotsByBrowser(file: File, places: readonly number[], count: number) {
  const input = new Input({ formats: ALL_FORMATS, source: new BlobSource(file) });
  try {
    const track = await input.getPrimaryAudioTrack().catch(() => null);
    if (!track) throw unreadable(file.name);
    const { sampleRate: rateHz, numberOfChannels: channels } = track;
    const sink = new AudioSampleSink(track);
    const spots: Spot[] = [];
    for (const place of places) {
      // A frame is looked up by its middle: its beginning may be rounded down to the one before.
      const sample = await sink.getSample((place + 0.5) / rateHz);
      if (!sample) continue;
      const first = Math.round(sample.timestamp * rateHz);
      const all = planar(sample, channels, Math.min(sample.numberOfFrames, Math.max(0, place - first)));
      sample.close();
      spots.push({ at: Math.max(place, first), audio: all.map((samples) => samples.slice(0, count)) });
    }
    return { rateHz, channels, frames: Math.round((await track.computeDuration()) * rateHz), spots };
  } finally {
    input.dispose();
  }
}

async function* decodeInput(
  input: Input,
  fileName: string,
  ogg: OggEnd | null,
  onSound: (sound: MediaSound) => void,
): AsyncGenerator<Planar> {
  const track = await input.getPrimaryAudioTrack().catch(() => null);
  if (!track) throw unreadable(fileName);
  if (!(await track.canDecode()))
    throw new ParolaError(
      'unsupported',
      say`This browser cannot decode “${fileName}” (${track.codec ?? 'an unknown coding'}). Save it as WAV or FLAC.`,
    );
  const { name } = await input.getFormat();
  const rateHz = track.sampleRate;
  const channels = track.numberOfChannels;
  const seconds = await track.computeDuration().catch(() => null);
  // The sound of a film lies where its picture says, and may be shorter.
  const isFilm = (await input.getPrimaryVideoTrack().catch(() => null)) !== null;
  const stated = isFilm ? seconds : await input.getDurationFromMetadata().catch(() => null);
  const sound: MediaSound = {
    kind: name,
    rateHz,
    channels,
    frames: ogg?.frames ?? (seconds === null ? null : Math.round(seconds * rateHz)),
    truncated: ogg?.isWhole === false,
    damaged: false,
    notNumbers: 0,
    marks: [],
    origin: null,
  };
  const ends = ogg?.frames ?? Infinity;
  onSound(sound);
  let frames = 0;
  try {
    for await (const sample of new AudioSampleSink(track).samples()) {
      // Encoders begin before the first frame: what lies there is their own delay.
      const late = isFilm && frames === 0 ? Math.round(sample.timestamp * rateHz) : 0;
      if (late > 0) {
        frames += late;
        yield Array.from({ length: channels }, () => new Float32Array(late));
      }
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
  if (stated !== null && frames < (stated - missingSeconds) * rateHz) sound.truncated = true;
}

function planar(sample: AudioSample, channels: number, skip: number): Float32Array<ArrayBuffer>[] {
  return Array.from({ length: channels }, (_, planeIndex) => {
    const samples = new Float32Array(sample.numberOfFrames - skip);
    sample.copyTo(samples, { planeIndex, format: 'f32-planar', frameOffset: skip });
    return samples;
  });
}
