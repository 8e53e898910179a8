import { open, rename, rm, type FileHandle } from 'node:fs/promises';
import type { ByteTarget } from '@/core/formats/bytes';

/** A file being written on disk: beside its name until it is whole. */
export class FileTarget implements ByteTarget {
  private at = 0;
  private closed = false;

  private constructor(
    private readonly handle: FileHandle,
    readonly path: string,
    private readonly finalPath: string,
  ) {}

  /** Throws what the file system throws. */
  static async create(finalPath: string): Promise<FileTarget> {
    const path = `${finalPath}.part`;
    return new FileTarget(await open(path, 'w'), path, finalPath);
  }

  async write(bytes: Uint8Array): Promise<void> {
    await this.put(bytes, this.at);
    this.at += bytes.length;
  }

  patch(offset: number, bytes: Uint8Array): Promise<void> {
    return this.put(bytes, offset);
  }

  /** Ends writing: everything is on the disk. */
  async close(): Promise<void> {
    if (this.closed) return;
    await this.handle.sync();
    await this.handle.close();
    this.closed = true;
  }

  /** Gives the file its name. */
  async keep(): Promise<void> {
    await this.close();
    await rename(this.path, this.finalPath);
  }

  /** Nothing half done is left. */
  async discard(): Promise<void> {
    if (!this.closed) await this.handle.close().catch(() => undefined);
    this.closed = true;
    await rm(this.path, { force: true });
  }

  private async put(bytes: Uint8Array, at: number): Promise<void> {
    for (let done = 0; done < bytes.length;) {
      const { bytesWritten } = await this.handle.write(bytes, done, bytes.length - done, at + done);
      done += bytesWritten;
    }
  }
}
