import { open, type FileHandle } from 'node:fs/promises';
import type { ByteSource } from '@/core/formats/bytes';

/** A file on disk as a byte source; close it after use. */
export class FileSource implements ByteSource {
  private constructor(
    private readonly handle: FileHandle,
    readonly size: number,
  ) {}

  static async open(path: string): Promise<FileSource> {
    const handle = await open(path, 'r');
    return new FileSource(handle, (await handle.stat()).size);
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
