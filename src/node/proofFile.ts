import { createHash } from 'node:crypto';
import { createReadStream, type PathLike } from 'node:fs';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { ParolaError, toParolaError } from '@/core/base/errors';
import type { SoundHealth } from '@/core/formats/health';
import { readSound, type Sound } from '@/core/formats/readSound';
import { Meter, type Measurement } from '@/core/loudness/measure';
import { describeFile } from '@/core/specs/describe';
import { judgeAmong, type Judgement } from '@/core/specs/judgeAmong';
import { median } from '@/core/base/statistics';
import { namePlaces } from '@/core/specs/looks';
import { filePasses, type Report } from '@/core/specs/report';
import type { Spec } from '@/core/specs/spec';
import { FileSource } from './fileSource';

/** A file as it was measured, before it is judged. */
export interface MeasuredFile {
  file: string;
  bytes: number;
  sha256: string;
  sound: Sound;
  measurement: Measurement;
}

/** One measured file, as `npm run proof -- --json` prints it and /api/proof answers. −∞ is null. */
export interface FileProof {
  file: string;
  spec: string;
  kind: string;
  bytes: number;
  sha256: string;
  integratedLufs: number | null;
  momentaryMaxLufs: number | null;
  shortTermMaxLufs: number | null;
  loudnessRangeLu: number | null;
  truePeakDbtp: number | null;
  samplePeakDbfs: number | null;
  rmsDbfs: number | null;
  speechDbfs: number | null;
  noiseFloorDbfs: number | null;
  dcOffsetDbfs: number | null;
  headSeconds: number;
  tailSeconds: number;
  longestPauseSeconds: number;
  usualPauseSeconds: number;
  durationSeconds: number;
  digitalSilenceSeconds: number;
  sampleRateHz: number;
  channels: number;
  clippedSamples: number;
  verdicts: {
    measure: string;
    value: number | null;
    min: number | null;
    max: number | null;
    passes: boolean;
    distance: number | null;
    message: string;
  }[];
  /** Every limit is met, and nothing is wrong with the file itself. */
  passes: boolean;
  /** What is wrong with the file itself: it is cut short, or damaged; then it never passes. */
  mistake: string | null;
  /** What no limit speaks of, with where it is. */
  looks: { kind: string; message: string }[];
  /** What does not fail the file but should be known: its rate is not the delivery's. */
  remarks: string[];
}

/** A file that could not be measured. */
export interface FileError {
  file: string;
  error: string;
  code: string;
}

export const isError = (result: object): result is FileError => 'error' in result;

const finite = (value: number) => (Number.isFinite(value) ? value : null);

export interface MeasureOptions {
  /** What the file is called in the result; its path when missing. */
  name?: string;
  /** Hours of audio, times channels, that are decoded of one file. */
  mostChannelHours?: number;
}

/** A hundred hours in stereo, which take 2.3 GB of memory; no delivery is longer. */
const usualChannelHours = 200;

/**
 * Measures a WAV, AIFF, FLAC or MP3 file on disk. Throws ParolaError when it cannot be read, `too-large` when
 * it decodes to more than is wanted: a few kilobytes can hold days of silence.
 */
export async function measureFile(
  file: string | Buffer,
  { name = file.toString(), mostChannelHours = usualChannelHours }: MeasureOptions = {},
): Promise<MeasuredFile> {
  const source = await openSource(file);
  try {
    let sound: Sound | null = null;
    let meter: Meter | null = null;
    let left = Infinity;
    for await (const audio of readSound(source, (found) => {
      sound = found;
      meter = new Meter(found.rateHz, found.channels);
      left = (mostChannelHours * 3600 * found.rateHz) / found.channels;
    })) {
      left -= audio[0].length;
      if (left < 0) throw tooLong(mostChannelHours);
      (meter as Meter | null)?.process(audio);
    }
    const measurement = (meter as Meter | null)?.finish();
    if (!measurement || !sound || measurement.frames === 0)
      throw new ParolaError('not-audio', 'There is no audio in this file.');
    return { file: name, bytes: source.size, sha256: await checksum(file), sound, measurement };
  } finally {
    await source.close();
  }
}

const tooLong = (hours: number) =>
  new ParolaError(
    'too-large',
    `This file holds more than ${hours} hours of audio, counted over its channels. Cut it into parts and measure those.`,
  );

/** As measureFile, with the error in the place of the result. */
export async function tryMeasureFile(
  file: string | Buffer,
  name = file.toString(),
): Promise<MeasuredFile | FileError> {
  try {
    return await measureFile(file, { name });
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    return { file: name, error: `${path.basename(name)}: ${message}`, code };
  }
}

async function openSource(file: string | Buffer): Promise<FileSource> {
  try {
    return await FileSource.open(file);
  } catch {
    throw new ParolaError('not-found', 'There is no such file, or it may not be read.');
  }
}

/** SHA-256 of a file, hexadecimal. */
export async function checksum(file: PathLike): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(file), hash);
  return hash.digest('hex');
}

/** A file against a spec; `all` are the measurements it is delivered with, its own among them. */
const judgeFile = ({ measurement, bytes }: MeasuredFile, spec: Spec, all: readonly Measurement[]) =>
  judgeAmong(spec, measurement, { bytes, all, wantsStereo: spec.file.channels === 2 });

/** Proofs of files that are delivered together: each against the spec and against the others. */
export function proofsOf(files: readonly MeasuredFile[], spec: Spec): FileProof[] {
  const all = files.map(({ measurement }) => measurement);
  return files.map((file) => describe(file, spec, judgeFile(file, spec, all), files));
}

/** Measures one file and judges it by itself. Throws ParolaError when it cannot be read. */
export async function proofFile(file: string, spec: Spec): Promise<FileProof> {
  return proofsOf([await measureFile(file)], spec)[0];
}

/** The report of files on disk, the same as an export makes. */
export function reportOf(project: string, files: readonly MeasuredFile[], spec: Spec): Report {
  const all = files.map(({ measurement }) => measurement);
  return {
    project,
    spec,
    madeAt: new Date().toISOString(),
    files: files.map((file) => ({
      fileName: path.basename(file.file),
      part: '',
      format: null,
      bytes: file.bytes,
      sha256: file.sha256,
      ...judgeFile(file, spec, all),
      mistake: mistakeIn(file.sound),
    })),
  };
}

function mistakeIn({ truncated, damaged, notNumbers }: SoundHealth): string | null {
  if (truncated) return 'The file is cut short: it ends before the length its header states.';
  if (notNumbers > 0)
    return `The file holds ${notNumbers} samples that are infinite or no numbers at all; they are measured as silence.`;
  return damaged ? 'The file is damaged in places, or does not match its checksum.' : null;
}

function describe(
  { file, bytes, sha256, sound, measurement }: MeasuredFile,
  spec: Spec,
  { verdicts, looks }: Judgement,
  files: readonly MeasuredFile[],
): FileProof {
  const usualRate = median(files.map((other) => other.sound.rateHz));
  const usualChannels = median(files.map((other) => other.sound.channels));
  const mistake = mistakeIn(sound);
  const remarks = [
    sound.rateHz !== spec.file.rateHz &&
      `The sample rate is ${sound.rateHz} Hz; the delivery is ${describeFile(spec.file)}.`,
    !spec.channels.includes(sound.channels) &&
      `The file has ${sound.channels} channels; the spec wants ${spec.channels.join(' or ')}.`,
    sound.kind !== spec.file.container &&
      files.length > 1 &&
      `The file is ${sound.kind.toUpperCase()}; the delivery is ${describeFile(spec.file)}.`,
    sound.rateHz !== usualRate && `Its sample rate is not that of the other files, ${usualRate} Hz.`,
    sound.channels !== usualChannels &&
      `It has another number of channels than the other files, ${usualChannels}.`,
  ];
  const values = {
    integratedLufs: finite(measurement.integratedLufs),
    momentaryMaxLufs: finite(measurement.momentaryMaxLufs),
    shortTermMaxLufs: finite(measurement.shortTermMaxLufs),
    loudnessRangeLu: finite(measurement.loudnessRangeLu),
    truePeakDbtp: finite(measurement.truePeakDbtp),
    samplePeakDbfs: finite(measurement.samplePeakDbfs),
    rmsDbfs: finite(measurement.rmsDbfs),
    speechDbfs: finite(measurement.speechDbfs),
    noiseFloorDbfs: finite(measurement.noiseFloorDbfs),
    dcOffsetDbfs: finite(measurement.dcOffsetDbfs),
  };
  return {
    file,
    spec: spec.name,
    kind: sound.kind,
    bytes,
    sha256,
    ...values,
    headSeconds: measurement.headSeconds,
    tailSeconds: measurement.tailSeconds,
    longestPauseSeconds: measurement.longestPauseSeconds,
    usualPauseSeconds: measurement.usualPauseSeconds,
    durationSeconds: measurement.durationSeconds,
    digitalSilenceSeconds: measurement.digitalSilenceSeconds,
    sampleRateHz: measurement.rateHz,
    channels: measurement.channels,
    clippedSamples: measurement.clippedSamples,
    verdicts: verdicts.map((verdict) => ({
      ...verdict,
      value: finite(verdict.value),
      distance: finite(verdict.distance),
    })),
    passes: filePasses({ verdicts, mistake }),
    mistake,
    looks: looks.map(({ kind, message, places }) => ({
      kind,
      message: places.length > 0 ? `${message} At ${namePlaces(places)}.` : message,
    })),
    remarks: remarks.filter((remark): remark is string => typeof remark === 'string'),
  };
}
