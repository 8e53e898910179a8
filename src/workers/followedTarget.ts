import type { ByteSource } from '@/core/formats/bytes';
import type { SoundFileSettings } from '@/core/formats/soundFile';
import { JobClient } from './client';
import { Helper } from './helper';
import { headBytes, type FollowedSound, type FollowJobs } from './followJobs';
import type { WrittenTarget } from './scratchFile';

/** So many pieces may be on their way to whoever follows. */
const mostWaiting = 8;

/** What was found out of a file while it was written, and what shows whether it is still true of it. */
export interface Followed extends FollowedSound {
  bytes: number;
  /** The first bytes as they were when they were decoded, and as they are on disk. */
  decodedHead: Uint8Array<ArrayBuffer>;
  head: Uint8Array<ArrayBuffer>;
}

/**
 * A target whose bytes are decoded and measured by a worker of its own while they are written. Whatever
 * becomes of that, the file is written all the same.
 */
export class FollowedTarget implements WrittenTarget {
  private at = 0;
  private readonly start = new Uint8Array(headBytes);
  private decodedHead: Uint8Array<ArrayBuffer> | null = null;
  private readonly waiting: Promise<unknown>[] = [];
  private follows = true;
  private readonly client: JobClient<FollowJobs>;

  constructor(
    private readonly target: WrittenTarget,
    settings: SoundFileSettings,
  ) {
    this.client = new JobClient<FollowJobs>(() => new Helper('follow'));
    this.send(this.client.run('begin', { settings }));
  }

  get path() {
    return this.target.path;
  }

  async write(bytes: Uint8Array): Promise<void> {
    await this.target.write(bytes);
    if (this.at < headBytes) this.start.set(bytes.subarray(0, headBytes - this.at), this.at);
    this.at += bytes.length;
    if (!this.follows) return;
    const sent = bytes.slice();
    this.send(this.client.run('take', { bytes: sent }, { transfer: [sent.buffer] }));
    while (this.waiting.length > mostWaiting) await this.waiting.shift();
  }

  async patch(offset: number, bytes: Uint8Array): Promise<void> {
    await this.target.patch(offset, bytes);
    if (offset + bytes.length > Math.min(this.at, headBytes)) return this.lose();
    this.decodedHead ??= this.head();
    this.start.set(bytes, offset);
  }

  /** Call when all is written; null where the file could not be followed. */
  async followed(): Promise<Followed | null> {
    await Promise.all(this.waiting);
    if (!this.follows) return null;
    try {
      const sound = await this.client.run('end', null);
      const head = this.head();
      return { ...sound, bytes: this.at, head, decodedHead: this.decodedHead ?? head };
    } catch {
      return null;
    } finally {
      this.client.close();
    }
  }

  readable(): Promise<ByteSource> {
    return this.target.readable();
  }

  close(): Promise<File> {
    this.client.close();
    return this.target.close();
  }

  discard(): Promise<void> {
    this.client.close();
    return this.target.discard();
  }

  private head = () => this.start.slice(0, Math.min(this.at, headBytes));

  private send(sent: Promise<unknown>) {
    this.waiting.push(sent.catch(() => this.lose()));
  }

  private lose() {
    this.follows = false;
    this.client.close();
  }
}
