import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Writable } from 'node:stream';
import { Reader, ZipReader, type Entry, type FileEntry } from '@zip.js/zip.js';
import { createCRC32 } from 'hash-wasm';
import { ParolaError, toParolaError } from '@/core/base/errors';
import type { ByteSource } from '@/core/formats/bytes';
import { manifestText, notWhole, readEntries } from '@/core/formats/projectArchive';
import { parseManifest, sourceFileName, type Manifest } from '@/core/formats/projectManifest';
import { readWavFrames, readWavInfo, type WavInfo } from '@/core/formats/wavReader';
import type { SourceReader } from '@/core/timeline/sourceReader';
import { FileSource } from './fileSource';

/** Decoded at once, and so many of these kept: 90 s of mono at 48 kHz. */
const windowFrames = 131_072;
const keptWindows = 32;
const checkBytes = 4_194_304;
/** Before an entry’s name in the archive (APPNOTE.TXT of the zip format, 4.3.7). */
const localHeader = { signature: 0x04034b50, bytes: 30, nameLengthAt: 26, extraLengthAt: 28 };

type Source = Manifest['sources'][number];

interface OpenSource {
  bytes: ByteSource;
  info: WavInfo;
}

/** A file on disk for the zip library. */
class DiskReader extends Reader<FileSource> {
  constructor(private readonly file: FileSource) {
    super(file);
    this.size = file.size;
  }

  override readUint8Array(offset: number, length: number): Promise<Uint8Array<ArrayBuffer>> {
    return this.file.read(offset, length);
  }
}

/**
 * A project file on disk, and its recordings as they are rendered: read from where they stand in it. Close it
 * after use.
 */
export class ProjectFile implements SourceReader {
  private readonly sources: Map<string, Source>;
  private readonly open = new Map<string, Promise<OpenSource>>();
  private readonly windows = new Map<string, Promise<Float32Array[]>>();
  private folder: Promise<string> | null = null;
  private readonly unpacked: FileSource[] = [];

  private constructor(
    private readonly file: FileSource,
    private readonly entries: ReadonlyMap<string, Entry>,
    readonly manifest: Manifest,
    /** What of its history could not be read, in sentences. */
    readonly left: readonly string[],
  ) {
    this.sources = new Map(manifest.sources.map((source) => [source.id, source]));
  }

  /** Throws ParolaError `not-found`, `damaged-file`, `too-large` or `unsupported`. */
  static async open(file: string): Promise<ProjectFile> {
    const source = await FileSource.open(file).catch(() => {
      throw new ParolaError('not-found', `There is no project file ${file}, or it may not be read.`);
    });
    try {
      const zip = new ZipReader(new DiskReader(source), { useWebWorkers: false, checkSignature: true });
      const entries = await readEntries(zip, source.size);
      const { manifest, left } = parseManifest(await manifestText(entries));
      if (manifest.elsewhere)
        throw new ParolaError(
          'unsupported',
          `${file} holds what was new when it was saved. Open it in Parola with ${manifest.elsewhere.map(({ file: other }) => `“${other}”`).join(', ')} and save the whole project.`,
        );
      return new ProjectFile(source, entries, manifest, left);
    } catch (thrown) {
      await source.close();
      const error = toParolaError(thrown);
      // Errors of the archive itself come as plain Errors of the zip library.
      throw error.code === 'internal' ? notWhole() : error;
    }
  }

  lengthOf = (source: string) => this.sources.get(source)?.frames ?? 0;

  async read(
    source: string,
    channel: number,
    from: number,
    frames: number,
    output: Float32Array,
    offset: number,
  ): Promise<void> {
    const to = from + frames;
    for (let index = Math.floor(from / windowFrames); index * windowFrames < to; index++) {
      const start = index * windowFrames;
      const samples = (await this.window(source, index))[channel];
      if (!samples) continue;
      const first = Math.max(from, start);
      const last = Math.min(to, start + samples.length);
      if (last > first) output.set(samples.subarray(first - start, last - start), offset + first - from);
    }
  }

  /**
   * Compares recordings with the checksums of the archive. Throws `damaged-file` where one is not what was
   * saved.
   */
  async check(sources: Iterable<string>): Promise<void> {
    for (const id of sources) {
      const entry = this.entryOf(id);
      // Unpacking has compared it.
      if (entry.compressionMethod !== 0) {
        await this.source(id);
        continue;
      }
      const { bytes } = await this.source(id);
      const sum = (await createCRC32()).init();
      for (let at = 0; at < bytes.size; at += checkBytes) sum.update(await bytes.read(at, checkBytes));
      if (parseInt(sum.digest('hex'), 16) !== entry.signature) throw this.damaged(id);
    }
  }

  async close(): Promise<void> {
    await Promise.all(this.unpacked.map((file) => file.close()));
    await this.file.close();
    if (this.folder) await rm(await this.folder, { recursive: true, force: true });
  }

  private window(source: string, index: number): Promise<Float32Array[]> {
    const key = `${source}/${index}`;
    const known = this.windows.get(key) ?? this.decode(source, index);
    this.windows.delete(key);
    this.windows.set(key, known);
    for (const oldest of this.windows.keys()) {
      if (this.windows.size <= keptWindows) break;
      this.windows.delete(oldest);
    }
    return known;
  }

  private async decode(source: string, index: number): Promise<Float32Array[]> {
    const { bytes, info } = await this.source(source);
    return [...(await readWavFrames(bytes, info, index * windowFrames, windowFrames))];
  }

  private source(id: string): Promise<OpenSource> {
    const known = this.open.get(id) ?? this.openSource(id);
    this.open.set(id, known);
    return known;
  }

  private async openSource(id: string): Promise<OpenSource> {
    const told = this.sources.get(id);
    const entry = this.entryOf(id);
    const bytes = entry.compressionMethod === 0 ? await this.stored(entry) : await this.unpack(id, entry);
    const info = await readWavInfo(bytes);
    if (info.channels !== told?.channels || info.rateHz !== told.rateHz || info.frames !== told.frames)
      throw this.damaged(id);
    return { bytes, info };
  }

  private entryOf(id: string): FileEntry {
    const entry = this.entries.get(sourceFileName(id));
    if (entry && !entry.directory) return entry;
    throw new ParolaError(
      'damaged-file',
      `The audio of “${this.nameOf(id)}” is missing from this project file. Try another copy.`,
    );
  }

  private nameOf = (id: string) => this.sources.get(id)?.name ?? id;

  private damaged = (id: string) =>
    new ParolaError(
      'damaged-file',
      `The audio of “${this.nameOf(id)}” is not what the project file says it is. Try another copy.`,
    );

  /** An entry that is stored as it is, from where it stands. */
  private async stored({ offset, uncompressedSize: size }: FileEntry): Promise<ByteSource> {
    const header = await this.file.read(offset, localHeader.bytes);
    if (header.length < localHeader.bytes) throw notWhole();
    const view = new DataView(header.buffer, header.byteOffset, header.length);
    if (view.getUint32(0, true) !== localHeader.signature) throw notWhole();
    const lengths = [localHeader.nameLengthAt, localHeader.extraLengthAt].map((at) =>
      view.getUint16(at, true),
    );
    const start = offset + localHeader.bytes + lengths[0] + lengths[1];
    return {
      size,
      read: (at, length) => this.file.read(start + at, Math.max(0, Math.min(length, size - at))),
    };
  }

  /** An archive that somebody has packed again. */
  private async unpack(id: string, entry: FileEntry): Promise<ByteSource> {
    this.folder ??= mkdtemp(path.join(tmpdir(), 'parola-'));
    const file = path.join(
      await this.folder,
      `${this.unpacked.length}-${[...this.open.keys()].indexOf(id)}.wav`,
    );
    await entry.getData(Writable.toWeb(createWriteStream(file)) as WritableStream).catch(() => {
      throw this.damaged(id);
    });
    const source = await FileSource.open(file);
    this.unpacked.push(source);
    return source;
  }
}
