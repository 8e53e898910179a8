import { storageFull } from '@/core/base/errors';
import type { ByteSource, ByteTarget } from '@/core/formats/bytes';

const folderName = 'exports';

async function folder(): Promise<FileSystemDirectoryHandle> {
  const root = await navigator.storage.getDirectory();
  return root.getDirectoryHandle(folderName, { create: true });
}

/** Removes files of earlier exports that have long been handed over. */
export async function clearScratch(olderThanMs: number): Promise<void> {
  const directory = await folder();
  for await (const [name, handle] of directory.entries()) {
    if (handle.kind !== 'file') continue;
    const { lastModified } = await (handle as FileSystemFileHandle).getFile();
    if (Date.now() - lastModified > olderThanMs) await directory.removeEntry(name).catch(() => undefined);
  }
}

/** A file that is written, then read. */
export interface WrittenTarget extends ByteTarget {
  readonly path: string;
  /** Ends writing; what was written, to be read until it is closed. */
  readable(): Promise<ByteSource>;
  close(): Promise<File>;
  discard(): Promise<void>;
}

/**
 * A file being written in the browser's private file system (W3C File System, OPFS): on disk, not in memory.
 */
export class ScratchFile implements WrittenTarget {
  private at = 0;

  private constructor(
    readonly path: string,
    private readonly handle: FileSystemFileHandle,
    private readonly access: FileSystemSyncAccessHandle,
  ) {}

  static async create(): Promise<ScratchFile> {
    const path = crypto.randomUUID();
    const handle = await (await folder()).getFileHandle(path, { create: true });
    return new ScratchFile(path, handle, await handle.createSyncAccessHandle());
  }

  get bytes() {
    return this.at;
  }

  write(bytes: Uint8Array): void {
    this.put(bytes, this.at);
    this.at += bytes.length;
  }

  patch(offset: number, bytes: Uint8Array): void {
    this.put(bytes, offset);
  }

  /** A disk that runs full may take a part of what it is given, without a word. */
  private put(bytes: Uint8Array, at: number) {
    const taken = this.access.write(bytes as Uint8Array<ArrayBuffer>, { at });
    if (taken < bytes.length) throw storageFull();
  }

  /** What has been written, from disk: without the way through the browser that a file takes. */
  async readable(): Promise<ByteSource> {
    this.access.flush();
    const { access } = this;
    return {
      size: access.getSize(),
      read: async (offset, length) => {
        const bytes = new Uint8Array(Math.max(0, Math.min(length, access.getSize() - offset)));
        const read = access.read(bytes, { at: offset });
        return read === bytes.length ? bytes : bytes.subarray(0, read);
      },
    };
  }

  /** Ends writing and reading; the file stays. */
  async close(): Promise<File> {
    this.access.flush();
    this.access.close();
    return this.handle.getFile();
  }

  /** Ends writing and removes the file: nothing half done is left. */
  async discard(): Promise<void> {
    this.access.close();
    await (await folder()).removeEntry(this.path).catch(() => undefined);
  }
}

/** The written file, as the page hands it over. */
export async function openScratch(path: string): Promise<File> {
  return (await (await folder()).getFileHandle(path)).getFile();
}

export async function removeScratch(path: string): Promise<void> {
  await (await folder()).removeEntry(path).catch(() => undefined);
}
