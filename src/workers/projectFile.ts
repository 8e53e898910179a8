import { BlobReader, TextWriter, ZipReader, ZipWriter, TextReader, type Entry } from '@zip.js/zip.js';
import { blockFrames } from '@/core/base/audio';
import { ParolaError, cancelled, toParolaError } from '@/core/base/errors';
import { MemorySource } from '@/core/formats/bytes';
import {
  manifestName,
  manifestVersion,
  parseManifest,
  sourceFileName,
  type Manifest,
} from '@/core/formats/projectManifest';
import { limits } from '@/core/formats/manifestLimits';
import { decodeFrames } from '@/core/formats/pcm';
import { readWavInfo, type WavInfo } from '@/core/formats/wavReader';
import { WavEncoder, wavHeader, type WavFormat } from '@/core/formats/wavWriter';
import { heardFramesOf, sourcesOf } from '@/core/timeline/timeline';
import { loadTimeline, storeTimeline } from '@/core/timeline/stored';
import { sourcesOfStep, type Step } from '@/core/timeline/history';
import { BlockReader } from '@/storage/blockReader';
import { partToday } from '@/storage/upgrade';
import { allOf, database, write } from '@/storage/database';
import { checksOfProject } from '@/storage/checks';
import { unlessOpening, whileOpening } from '@/storage/lock';
import { loadProject, newId, newProject } from '@/storage/projects';
import type { PartRecord, ProjectRecord, SourceRecord } from '@/storage/schema';
import { BlockWriter, createSource, deleteSource, sourcesOfProject } from '@/storage/sources';
import type { WrittenFile } from './exportJobs';
import type { JobContext } from './protocol';
import { ScratchFile } from './scratchFile';

const blocksPerChunk = 16;
const plain = { level: 0, useWebWorkers: false } as const;

/**
 * Writes a project with everything in it to one file: the manifest, and each source as a 32-bit float WAV.
 * Streams.
 */
export async function saveProjectFile(
  { projectId, fileName }: { projectId: string; fileName: string },
  context: JobContext,
): Promise<WrittenFile> {
  const { project, parts, sources } = await projectToSave(projectId);
  const target = await ScratchFile.create();
  try {
    const writer = new ZipWriter(
      new WritableStream<Uint8Array>({ write: (bytes) => target.write(bytes) }),
      plain,
    );
    await writer.add(
      manifestName,
      new TextReader(JSON.stringify(await manifestOf(project, parts, sources), null, 1)),
    );
    const total = sources.reduce((sum, source) => sum + source.frames, 0);
    let done = 0;
    for (const source of sources) {
      const advance = (frames: number) => context.progress((done += frames) / total, source.name);
      const stream = wavStream(source, advance, context.signal);
      await writer.add(sourceFileName(source.id), stream, {
        zip64: source.frames * 4 * source.channels > 4e9,
      });
    }
    await writer.close();
    const file = await target.close();
    await checkWritten(file, sources);
    return { path: target.path, fileName, bytes: file.size };
  } catch (error) {
    await target.discard();
    throw error;
  }
}

/**
 * Reads a written project file's contents back: its manifest as it is read when it is opened, and that every
 * source is there in its length. Throws when it could not be opened again.
 */
async function checkWritten(file: File, sources: readonly SourceRecord[]): Promise<void> {
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false, checkSignature: true });
  try {
    const entries = await readEntries(zip, file.size);
    parseManifest(await manifestText(entries), (id) => id);
    for (const source of sources) {
      const found = entries.get(sourceFileName(source.id))?.uncompressedSize ?? 0;
      if (found < source.frames * source.channels * 4)
        throw new ParolaError('damaged-file', `the audio of “${source.name}” is not whole in it`);
    }
  } catch (error) {
    const { message } = toParolaError(error);
    throw new ParolaError(
      'damaged-file',
      `The project file that was written cannot be opened again (${message}), so it is not kept. Nothing in the project has changed; save it again.`,
    );
  } finally {
    await zip.close();
  }
}

type PartWithHistory = PartRecord & { history: Step[] };

/**
 * A project with all that can be heard or undone in it: a take that was deleted stays in for as long as a
 * sheet or a step names it.
 */
async function projectToSave(projectId: string) {
  const { project, parts: records } = await loadProject(projectId);
  const db = await database();
  const parts: PartWithHistory[] = [];
  const used = new Set<string>();
  for (const part of records) {
    const steps = (await db.getAll('history', allOf(part.id))).map(({ step }) => step);
    const { timeline, history, historyAt } = partToday(part, steps);
    for (const source of sourcesOf(timeline)) used.add(source);
    for (const step of history) for (const source of sourcesOfStep(step)) used.add(source);
    parts.push({ ...part, timeline: storeTimeline(timeline), history, historyAt });
  }
  const sources = (await sourcesOfProject(projectId)).filter(
    ({ id, state, deleted }) => used.has(id) || (state === 'kept' && !deleted),
  );
  return { project, parts, sources };
}

async function manifestOf(
  project: ProjectRecord,
  parts: readonly PartWithHistory[],
  sources: readonly SourceRecord[],
): Promise<Manifest> {
  return {
    format: 'parola-project',
    version: manifestVersion,
    project: {
      name: project.name,
      spec: project.spec,
      rateHz: project.rateHz,
      createdAt: project.createdAt,
      joinMs: project.joinMs,
      routes: project.routes,
      recording: project.recording,
      levels: project.levels,
    },
    parts: parts.map(
      ({ id, name, script, currentLine, caret, historyAt, timeline, tones, refused, history }) => ({
        tones,
        refused,
        id,
        name,
        script,
        currentLine,
        caret,
        historyAt,
        timeline,
        history,
      }),
    ),
    sources: sources.map(
      ({ projectIds: _projects, state: _state, placement: _placed, own: _own, ...source }) => source,
    ),
    checks: (await checksOfProject(project.id)).map(({ id: _id, projectId: _project, ...check }) => check),
  };
}

function wavStream(source: SourceRecord, advance: (frames: number) => void, signal: AbortSignal) {
  const { rateHz, channels, frames } = source;
  const format: WavFormat = { encoding: 'float32', rateHz, channels, dither: 'none' };
  const encoder = new WavEncoder(format);
  const reader = new BlockReader([source]);
  let at = 0;
  return new ReadableStream<Uint8Array>({
    start: (controller) => controller.enqueue(wavHeader(format, frames)),
    async pull(controller) {
      if (signal.aborted) throw cancelled();
      const count = Math.min(blocksPerChunk * blockFrames, frames - at);
      if (count === 0) return controller.close();
      const audio = Array.from({ length: channels }, () => new Float32Array(count));
      for (let channel = 0; channel < channels; channel++) {
        await reader.read(source.id, channel, at, count, audio[channel], 0);
      }
      controller.enqueue(encoder.process(audio));
      at += count;
      advance(count);
    },
  });
}

/** `left` says in sentences what could not be taken over. */
export interface OpenedProject {
  projectId: string;
  name: string;
  left: string[];
}

/**
 * Opens a project file as a new project on this machine. Whatever fails, nothing half opened is left behind.
 */
export async function openProjectFile({ file }: { file: File }, context: JobContext): Promise<OpenedProject> {
  return whileOpening(async () => {
    await sweepLeftovers();
    const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false, checkSignature: true });
    try {
      const entries = await readEntries(zip, file.size);
      const ids = new Map<string, string>();
      const { manifest, left } = parseManifest(await manifestText(entries), (id) => {
        if (!ids.has(id)) ids.set(id, newId());
        return ids.get(id) ?? id;
      });
      const oldIds = new Map([...ids].map(([before, after]) => [after, before]));
      const opened = await importManifest(
        manifest,
        (id) => entries.get(sourceFileName(oldIds.get(id) ?? id)),
        context,
      );
      return { ...opened, left };
    } catch (error) {
      await sweepLeftovers();
      throw asDamage(error);
    } finally {
      await zip.close().catch(() => undefined);
    }
  });
}

/** Errors of the archive itself come as plain Errors of the zip library. */
function asDamage(error: unknown): ParolaError {
  const known = toParolaError(error);
  return known.code === 'internal' ? notWhole() : known;
}

/**
 * The entries of an archive by their names. Throws where they take more bytes than the file has, which is
 * only so when they lie over one another: a few kilobytes could stand for gigabytes.
 */
async function readEntries(zip: ZipReader<unknown>, fileBytes: number): Promise<Map<string, Entry>> {
  const entries = await zip.getEntries();
  if (entries.length > mostEntries) throw notWhole();
  const taken = entries.reduce((sum, { compressedSize }) => sum + compressedSize, 0);
  if (taken > fileBytes) throw notWhole();
  return new Map(entries.map((entry) => [entry.filename, entry]));
}

const mostEntries = limits.sources + 1000;

const notWhole = () =>
  new ParolaError(
    'damaged-file',
    'This is not a whole project file. Nothing was opened; try another copy of it.',
  );

async function manifestText(entries: Map<string, Entry>): Promise<string> {
  const entry = entries.get(manifestName);
  if (!entry || entry.directory) {
    throw new ParolaError(
      'damaged-file',
      `This is not a Parola project file: there is no ${manifestName} in it.`,
    );
  }
  if (entry.uncompressedSize > 512e6)
    throw new ParolaError('too-large', `The ${manifestName} of this project file is too large to be one.`);
  return entry.getData(new TextWriter());
}

async function importManifest(
  manifest: Manifest,
  entryOf: (sourceId: string) => Entry | undefined,
  context: JobContext,
): Promise<{ projectId: string; name: string }> {
  const project = newProject(manifest.project.name, manifest.project.spec, manifest.project.rateHz);
  const partIds = new Map(manifest.parts.map((part) => [part.id, newId()]));
  const total = manifest.sources.reduce((sum, source) => sum + source.frames, 0);
  await checkRoom(manifest);
  for (const source of manifest.sources) checkEntry(source, entryOf(source.id));
  let done = 0;
  const records: SourceRecord[] = [];
  for (const source of manifest.sources) {
    const record: SourceRecord = {
      ...source,
      projectIds: [project.id],
      partId: partIds.get(source.partId) ?? source.partId,
      state: 'importing',
    };
    await createSource(record);
    await importSource(record, entryOf(source.id), context.signal, (frames) =>
      context.progress((done += frames) / total, source.name),
    );
    records.push(record);
  }
  const parts = manifest.parts.map(({ history: _history, ...part }): PartRecord => ({
    ...part,
    id: partIds.get(part.id) ?? part.id,
    projectId: project.id,
    heardFrames: heardFramesOf(loadTimeline(part.timeline)),
  }));
  await write(['projects', 'parts', 'history', 'sources', 'checks'], async (tx) => {
    await tx.objectStore('projects').add({
      ...project,
      ...manifest.project,
      name: project.name,
      partIds: parts.map((part) => part.id),
    });
    for (const part of parts) await tx.objectStore('parts').add(part);
    for (const [index, part] of manifest.parts.entries()) {
      for (const [seq, step] of part.history.entries()) {
        await tx.objectStore('history').add({ partId: parts[index].id, seq, step });
      }
    }
    for (const check of manifest.checks ?? []) {
      await tx.objectStore('checks').add({ ...check, id: newId(), projectId: project.id });
    }
    for (const record of records) await tx.objectStore('sources').put({ ...record, state: 'kept' });
  });
  return { projectId: project.id, name: project.name };
}

type Audio = Pick<SourceRecord, 'name' | 'frames' | 'channels'>;

/** What a frame takes in storage, with its peaks: 32-bit samples, and three values for each 256. */
const bytesPerSample = 4.05;

/** Says before anything is written when there is no room for it. */
async function checkRoom({ sources }: Manifest): Promise<void> {
  const needed = sources.reduce((sum, { frames, channels }) => sum + frames * channels * bytesPerSample, 0);
  const { quota, usage = 0 } = await navigator.storage.estimate();
  if (quota === undefined || needed <= quota - usage) return;
  const megabytes = (bytes: number) => Math.max(0, Math.round(bytes / 1e6)).toLocaleString('en');
  throw new ParolaError(
    'storage-full',
    `This project needs ${megabytes(needed)} MB, and this browser allows ${megabytes(quota - usage)} MB more. Delete a project or free disk space, then open it again.`,
  );
}

/** Beside its samples a WAV file has a header and at most some marks. */
const mostHeaderBytes = 1_000_000;
/** The widest samples a WAV file can have: 64-bit floating point. */
const mostSampleBytes = 8;

/** An entry holds what the manifest says of it, as far as its size tells before anything is written. */
function checkEntry(source: Audio, entry: Entry | undefined): asserts entry is Entry & { directory: false } {
  if (!entry || entry.directory) {
    throw new ParolaError(
      'damaged-file',
      `The audio of “${source.name}” is missing from this project file. Nothing was opened; try another copy.`,
    );
  }
  if (entry.uncompressedSize > source.frames * source.channels * mostSampleBytes + mostHeaderBytes)
    throw otherAudio(source);
}

const otherAudio = ({ name }: Audio) =>
  new ParolaError(
    'damaged-file',
    `The audio of “${name}” is not what the project file says it is. Nothing was opened; try another copy.`,
  );

async function importSource(
  record: SourceRecord,
  entry: Entry | undefined,
  signal: AbortSignal,
  advance: (frames: number) => void,
) {
  checkEntry(record, entry);
  const sink = new WavSink(entry.uncompressedSize, record, advance);
  await entry.getData(new WritableStream<Uint8Array<ArrayBuffer>>({ write: (bytes) => sink.write(bytes) }), {
    signal,
  });
  const frames = await sink.close();
  if (frames !== record.frames) {
    throw new ParolaError(
      'damaged-file',
      `The audio of “${record.name}” is cut short in this project file (${frames} of ${record.frames} frames). Nothing was opened; try another copy.`,
    );
  }
}

/** Long enough for the header of any WAV that a project file contains. */
const headBytes = 65_536;

/** Takes a WAV file as a stream of bytes and stores its audio in blocks. */
class WavSink {
  private rest: Uint8Array<ArrayBuffer> = new Uint8Array(0);
  private info: WavInfo | null = null;
  private received = 0;
  private readonly writer: BlockWriter;

  constructor(
    private readonly fileBytes: number,
    private readonly record: SourceRecord,
    private readonly advance: (frames: number) => void,
  ) {
    this.writer = new BlockWriter(record.id, record.channels);
  }

  async write(bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    this.received += bytes.length;
    // What is packed may turn out longer than it is said to be.
    if (this.received > this.fileBytes) throw otherAudio(this.record);
    const all = new Uint8Array(this.rest.length + bytes.length);
    all.set(this.rest);
    all.set(bytes, this.rest.length);
    this.rest = all;
    if (!this.info && all.length < Math.min(headBytes, this.fileBytes)) return;
    if (!this.info) await this.readHeader();
    await this.store();
  }

  async close(): Promise<number> {
    if (!this.info) await this.readHeader();
    await this.store();
    return this.writer.close();
  }

  private async readHeader() {
    const head = new MemorySource(this.rest);
    const info = await readWavInfo({
      size: this.fileBytes,
      read: (offset, length) => head.read(offset, length),
    });
    const { channels, rateHz } = this.record;
    if (info.channels !== channels || info.rateHz !== rateHz || info.frames > this.record.frames)
      throw otherAudio(this.record);
    this.info = info;
    this.rest = this.rest.slice(info.dataOffset);
  }

  private async store() {
    if (!this.info) return;
    const audio = decodeFrames(this.rest, this.info);
    const left = Math.min(audio[0].length, this.info.frames - this.writer.frames);
    this.rest = this.rest.slice(audio[0].length * this.info.frameBytes);
    if (left <= 0) return;
    await this.writer.write(audio.map((samples) => samples.subarray(0, left)));
    this.advance(left);
  }
}

/**
 * Removes what an opening that was cut off, by a reload or a crash, has left; not while one is going on in
 * another tab.
 */
export async function sweepOpenings(): Promise<null> {
  await unlessOpening(sweepLeftovers);
  return null;
}

/** The caller holds the import lock. */
async function sweepLeftovers() {
  const sources = await (await database()).getAll('sources');
  const leftovers = sources.filter((source) => source.state === 'importing');
  if (leftovers.length === 0) return;
  await write(['sources', 'blocks', 'peaks'], async (tx) => {
    for (const source of leftovers) await deleteSource(tx, source.id);
  });
}
