import { constants } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import type { ByteSource } from '@/core/formats/bytes';

/** A file on disk as a byte source; close it after use. */
export class FileSource implements ByteSource {
  private constructor(
    private readonly handle: FileHandle,
    readonly size: number,
  ) {}

  /** Throws where there is no such file, it may not be read, or it is no regular file: a pipe never ends. */
  static async open(path: string | Buffer): Promise<FileSource> {
    const handle = await open(path, constants.O_RDONLY | constants.O_NONBLOCK);
    const found = await handle.stat();
    if (found.isFile()) return new FileSource(handle, found.size);
    await handle.close();
    throw new Error('no regular file');
  }

  async read(offset: number, length: number): Promise<Uint8Array<ArrayBuffer>> {
    const wanted = Math.max(0, Math.min(length, this.size - offset));
    // Not cleared first: the read overwrites it, and only what was read is returned.
    const bytes = Buffer.allocUnsafeSlow(wanted);
    const { bytesRead } = await this.handle.read(bytes, 0, bytes.length, offset);
    return bytes.subarray(0, bytesRead);
  }

  close(): Promise<void> {
    return this.handle.close();
  }
}
