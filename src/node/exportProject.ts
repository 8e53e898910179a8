import { existsSync } from 'node:fs';
import path from 'node:path';
import { ParolaError, toParolaError } from '@/core/base/errors';
import { measureWritten, mistakeIn, type ReadSound } from '@/core/delivery/measureWritten';
import { filesOfPart, type DeliveredSound, type PartFile } from '@/core/delivery/partFiles';
import { withoutCollisions } from '@/core/formats/fileNames';
import type { Sound, SoundKind } from '@/core/formats/readSound';
import { writeSoundFile, type Encoders, type SoundFileSettings } from '@/core/formats/soundFile';
import type { FileFormat } from '@/core/specs/fileFormat';
import { joinLengthsOf } from '@/core/timeline/joins';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { loadTimeline } from '@/core/timeline/stored';
import { sourcesOf } from '@/core/timeline/timeline';
import { FileSource } from './fileSource';
import { FileTarget } from './fileTarget';
import { checksum, proofsOf, type FileError, type FileProof, type MeasuredFile } from './proofFile';
import type { ProjectFile } from './projectFile';

const chunkSeconds = 2;

export interface ExportRequest {
  project: ProjectFile;
  /** An existing folder. */
  folder: string;
  /** Numbers of the parts, from 1; all of them when null. */
  parts: readonly number[] | null;
  /** Instead of the formats of the project's spec. */
  format: FileFormat | null;
  what: DeliveredSound;
  /** Files of the same name make way. */
  replace: boolean;
  encoders: Encoders;
  /** Today, “2026-11-26”. */
  date: string;
}

/** A file that was written, with what was read back from it. */
export interface ExportedFile extends FileProof {
  part: string;
  frames: number;
}

/** Names as the spec wants them, and no texts beside the files. */
const audioAlone = { naming: null, cover: null, marksCsv: false, marksVtt: false, script: false };

/** The files an export writes, in the order of the parts. Throws `not-found` for a part there is not. */
export function plannedFiles({ project, parts, format, what, date }: ExportRequest): PartFile[] {
  const { project: own, parts: all, sources } = project.manifest;
  const numbers = parts ?? all.map((_, index) => index + 1);
  const missing = numbers.find((number) => !all[number - 1]);
  if (missing !== undefined)
    throw new ParolaError(
      'not-found',
      `There is no part ${missing}: the project has ${all.length === 1 ? 'one part' : `${all.length} parts`}.`,
    );
  const settings = { rateHz: own.rateHz, joins: joinLengthsOf(own.joinMs, own.rateHz) };
  const delivered = { ...own, date, sources, settings };
  const options = { ...audioAlone, what, format };
  const files = numbers.flatMap((number) => {
    const { id, name, script, timeline } = all[number - 1];
    const part = {
      id,
      name,
      script,
      number,
      of: all.length,
      timeline: loadTimeline(timeline),
      selection: null,
    };
    return filesOfPart(part, delivered, options).map(({ file }) => file);
  });
  const names = withoutCollisions(files.map(({ fileName }) => fileName));
  return files.map((file, index) => ({ ...file, fileName: names[index] }));
}

/** The recordings that are heard in the parts of an export. */
export function recordingsOf({ project, parts }: ExportRequest): Set<string> {
  const heard = project.manifest.parts.filter((_, index) => !parts || parts.includes(index + 1));
  return new Set(heard.flatMap(({ timeline }) => [...sourcesOf(loadTimeline(timeline))]));
}

type Written = MeasuredFile & { part: string; mistake: string | null };

/**
 * Writes files of a project into a folder, reads each back and judges all of them together, as the
 * application does. A file that cannot be written is told in its place and takes no other with it; nothing
 * half written is left.
 */
export async function exportProject(
  request: ExportRequest,
  files: readonly PartFile[],
  onFile: (fileName: string) => void,
): Promise<(ExportedFile | FileError)[]> {
  const results: (Written | FileError)[] = [];
  for (const file of files) {
    onFile(file.fileName);
    results.push(await tryWrite(file, request));
  }
  const whole = results.filter((result): result is Written => !('error' in result));
  const proofs = proofsOf(whole, request.project.manifest.project.spec);
  return results.map((result) => {
    if ('error' in result) return result;
    const proof = proofs[whole.indexOf(result)];
    const { part, mistake, measurement } = result;
    const passes = proof.passes && mistake === null;
    return { ...proof, passes, mistake: proof.mistake ?? mistake, part, frames: measurement.frames };
  });
}

async function tryWrite(file: PartFile, request: ExportRequest): Promise<Written | FileError> {
  const target = path.join(request.folder, file.fileName);
  try {
    if (!request.replace && existsSync(target))
      throw new ParolaError('exists', 'There is a file of this name. Add --replace, or name another folder.');
    return await write(file, target, request);
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    return { file: target, error: `${file.fileName}: ${message}`, code };
  }
}

async function write(
  { partName, format, sounding, range, broadcast, marks, tags, cover }: PartFile,
  finalPath: string,
  { project, encoders }: ExportRequest,
): Promise<Written> {
  const { container } = format;
  if (container === 'opus')
    throw new ParolaError(
      'unsupported',
      'Ogg Opus is coded by browsers: export this file there, or choose another --format.',
    );
  const { rateHz } = sounding;
  const frames = range.to - range.from;
  const settings: SoundFileSettings = { format, rateHz, frames, broadcast, marks, tags, cover };
  const part = new PartRenderer(sounding, project);
  const audio = part.stream({ delivering: format.channels }, range, chunkSeconds * rateHz);
  const target = await createTarget(finalPath);
  try {
    const written = await writeSoundFile(audio, settings, target, encoders);
    await target.close();
    const source = await FileSource.open(target.path);
    const read = await measureWritten(source, settings, () => undefined).finally(() => source.close());
    const result: Written = {
      file: finalPath,
      part: partName,
      bytes: source.size,
      sha256: await checksum(target.path),
      sound: soundOf(container, read),
      measurement: read.measurement,
      mistake: mistakeIn(read, written, settings),
    };
    await target.keep();
    return result;
  } catch (error) {
    await target.discard();
    throw (error as NodeJS.ErrnoException).code === 'ENOSPC' ? diskFull() : error;
  }
}

/** What is known of a file that was just written, in the terms of one that comes from elsewhere. */
const soundOf = (kind: SoundKind, { frames, measurement }: ReadSound): Sound => ({
  kind,
  rateHz: measurement.rateHz,
  channels: measurement.channels,
  frames,
  truncated: false,
  damaged: false,
  notNumbers: 0,
  marks: [],
  origin: null,
});

const diskFull = () =>
  new ParolaError('storage-full', 'The disk is full. Free space, then export this file again.');

async function createTarget(finalPath: string): Promise<FileTarget> {
  try {
    return await FileTarget.create(finalPath);
  } catch (error) {
    throw new ParolaError(
      'not-found',
      `It cannot be written there (${(error as Error).message}). Name another folder.`,
    );
  }
}
