import type { ByteSource } from '@/core/formats/bytes';
import { BlobBytes } from './blobBytes';
import type { WrittenTarget } from './scratchFile';

/**
 * A file being written into a folder of the user's under a name of its own, where the private file system has
 * no room: what lies there counts against no quota (W3C File System).
 */
export class FolderFile implements WrittenTarget {
  private at = 0;
  private closed = false;

  private constructor(
    readonly path: string,
    private readonly folder: FileSystemDirectoryHandle,
    private readonly handle: FileSystemFileHandle,
    private readonly writable: FileSystemWritableFileStream,
  ) {}

  static async create(folder: FileSystemDirectoryHandle): Promise<FolderFile> {
    const path = `parola-${crypto.randomUUID()}.part`;
    const handle = await folder.getFileHandle(path, { create: true });
    return new FolderFile(path, folder, handle, await handle.createWritable());
  }

  async write(bytes: Uint8Array): Promise<void> {
    await this.put(bytes, this.at);
    this.at += bytes.length;
  }

  patch(offset: number, bytes: Uint8Array): Promise<void> {
    return this.put(bytes, offset);
  }

  private put(bytes: Uint8Array, position: number): Promise<void> {
    return this.writable.write({ type: 'write', position, data: bytes as Uint8Array<ArrayBuffer> });
  }

  async readable(): Promise<ByteSource> {
    return new BlobBytes(await this.close());
  }

  /** Ends writing; the file stays. */
  async close(): Promise<File> {
    if (!this.closed) await this.writable.close();
    this.closed = true;
    return this.handle.getFile();
  }

  /** Ends writing and removes the file: nothing half done is left. */
  async discard(): Promise<void> {
    await this.writable.abort().catch(() => undefined);
    await this.folder.removeEntry(this.path).catch(() => undefined);
  }
}
