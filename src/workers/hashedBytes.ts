import type { ByteSource } from '@/core/formats/bytes';
import { JobClient } from './client';
import { Helper } from './helper';
import type { HashJobs } from './hashJobs';

const windowBytes = 2_097_152;
/**
 * What is skipped of a file is read for the checksum when it is no longer than this; a cover picture, say.
 */
const longestSkip = 4_194_304;
/** So many pieces may be on their way to the checksum. */
const mostWaiting = 8;

type Bytes = Uint8Array<ArrayBuffer>;

/**
 * A file as a source of bytes, and its SHA-256 from the same bytes as they are read, made by a worker of its
 * own. Read in windows; while one is worked on the next is read. Closed when it is done with.
 */
export class HashedBytes implements ByteSource {
  private hashed = 0;
  private window: { from: number; bytes: Promise<Bytes> } | null = null;
  private next: { from: number; bytes: Promise<Bytes> } | null = null;
  private readonly waiting: Promise<unknown>[] = [];
  private readonly hash: JobClient<HashJobs>;

  constructor(private readonly file: ByteSource) {
    this.hash = new JobClient<HashJobs>(() => new Helper('hash'));
    this.send(this.hash.run('begin', null));
  }

  get size() {
    return this.file.size;
  }

  async read(offset: number, length: number): Promise<Bytes> {
    const bytes = await this.bytes(offset, Math.min(length, Math.max(0, this.size - offset)));
    if (offset > this.hashed && offset - this.hashed <= longestSkip) await this.hashUpTo(offset);
    if (offset <= this.hashed && offset + bytes.length > this.hashed)
      await this.update(bytes.subarray(this.hashed - offset));
    return bytes;
  }

  /** Reads what nobody has read of the file; after that the file is not needed any more. */
  readRest(): Promise<void> {
    return this.hashUpTo(this.size);
  }

  /** The checksum of the whole file; call after `readRest`. */
  async sha256(): Promise<string> {
    await Promise.all(this.waiting);
    return this.hash.run('end', null);
  }

  close(): void {
    this.hash.close();
  }

  private send(sent: Promise<unknown>) {
    // Told by whoever waits for it.
    sent.catch(() => undefined);
    this.waiting.push(sent);
  }

  private async update(bytes: Uint8Array) {
    this.hashed += bytes.length;
    const sent = bytes.slice();
    this.send(this.hash.run('update', { bytes: sent }, { transfer: [sent.buffer] }));
    while (this.waiting.length > mostWaiting) await this.waiting.shift();
  }

  private async hashUpTo(end: number) {
    while (this.hashed < end)
      await this.update(await this.bytes(this.hashed, Math.min(windowBytes, end - this.hashed)));
  }

  private load(from: number) {
    const loading = { from, bytes: this.file.read(from, windowBytes) };
    // Told by whoever waits for it.
    loading.bytes.catch(() => undefined);
    return loading;
  }

  /** Bytes of as many windows as it takes, windows standing at multiples of their length. */
  private async bytes(offset: number, length: number): Promise<Bytes> {
    const from = Math.floor(offset / windowBytes) * windowBytes;
    if (this.window?.from !== from) {
      this.window = this.next?.from === from ? this.next : this.load(from);
      this.next = from + windowBytes < this.size ? this.load(from + windowBytes) : null;
    }
    const window = await this.window.bytes;
    const part = window.subarray(offset - from, offset - from + length);
    if (part.length === length || window.length < windowBytes) return part;
    const rest = await this.bytes(from + windowBytes, length - part.length);
    const all = new Uint8Array(part.length + rest.length);
    all.set(part);
    all.set(rest, part.length);
    return all;
  }
}
