import path from 'node:path';
import { ParolaError, toParolaError } from '@/core/base/errors';
import { readSound, type Sound } from '@/core/formats/readSound';
import { Meter, type Measurement } from '@/core/loudness/measure';
import type { Spec } from '@/core/specs/spec';
import { describeFile } from '@/core/specs/describe';
import { judge } from '@/core/specs/verdicts';
import { FileSource } from './fileSource';

/** One measured file, as `npm run proof -- --json` prints it and /api/proof answers. −∞ is null. */
export interface FileProof {
  file: string;
  spec: string;
  integratedLufs: number | null;
  loudnessRangeLu: number | null;
  truePeakDbtp: number | null;
  samplePeakDbfs: number | null;
  rmsDbfs: number | null;
  noiseFloorDbfs: number | null;
  headSeconds: number;
  tailSeconds: number;
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
  passes: boolean;
  /** What does not fail the file but should be known: it is cut short, its rate is not the delivery's. */
  remarks: string[];
}

/** A file that could not be measured. */
export interface FileError {
  file: string;
  error: string;
  code: string;
}

const finite = (value: number) => (Number.isFinite(value) ? value : null);

/** Measures a WAV or MP3 file on disk. Throws ParolaError when it cannot be read. */
export async function proofFile(file: string, spec: Spec, name = file): Promise<FileProof> {
  const source = await openSource(file);
  try {
    let sound: Sound | null = null;
    let meter: Meter | null = null;
    for await (const audio of readSound(source, (found) => {
      sound = found;
      meter = new Meter(found.rateHz, found.channels);
    })) {
      (meter as Meter | null)?.process(audio);
    }
    const measured = (meter as Meter | null)?.finish();
    if (!measured || !sound || measured.frames === 0)
      throw new ParolaError('not-audio', 'There is no audio in this file.');
    return describe(name, spec, measured, sound);
  } finally {
    await source.close();
  }
}

async function openSource(file: string): Promise<FileSource> {
  try {
    return await FileSource.open(file);
  } catch {
    throw new ParolaError('not-found', 'There is no such file, or it may not be read.');
  }
}

function describe(file: string, spec: Spec, measured: Measurement, sound: Sound): FileProof {
  const verdicts = judge(spec, measured);
  const remarks = [
    sound.truncated && 'The file is cut short: it ends before the length its header states.',
    sound.rateHz !== spec.file.rateHz &&
      `The sample rate is ${sound.rateHz} Hz; the delivery is ${describeFile(spec.file)}.`,
    !spec.channels.includes(sound.channels) &&
      `The file has ${sound.channels} channels; the spec wants ${spec.channels.join(' or ')}.`,
    measured.digitalSilenceSeconds > 0.1 &&
      `${measured.digitalSilenceSeconds.toFixed(1)} s are digital silence.`,
  ];
  return {
    file,
    spec: spec.name,
    integratedLufs: finite(measured.integratedLufs),
    loudnessRangeLu: finite(measured.loudnessRangeLu),
    truePeakDbtp: finite(measured.truePeakDbtp),
    samplePeakDbfs: finite(measured.samplePeakDbfs),
    rmsDbfs: finite(measured.rmsDbfs),
    noiseFloorDbfs: finite(measured.noiseFloorDbfs),
    headSeconds: measured.headSeconds,
    tailSeconds: measured.tailSeconds,
    durationSeconds: measured.durationSeconds,
    digitalSilenceSeconds: measured.digitalSilenceSeconds,
    sampleRateHz: measured.rateHz,
    channels: measured.channels,
    clippedSamples: measured.clippedSamples,
    verdicts: verdicts.map((verdict) => ({
      ...verdict,
      value: finite(verdict.value),
      distance: finite(verdict.distance),
    })),
    passes: verdicts.every((verdict) => verdict.passes),
    remarks: remarks.filter((remark): remark is string => typeof remark === 'string'),
  };
}

/** As proofFile, with the error in the place of the result. */
export async function tryProofFile(file: string, spec: Spec): Promise<FileProof | FileError> {
  try {
    return await proofFile(file, spec);
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    return { file, error: `${path.basename(file)}: ${message}`, code };
  }
}
