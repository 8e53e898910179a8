import type { ByteSource } from '@/core/formats/bytes';

/** So much may wait to be read, and so much of what has been read is kept for whoever looks back. */
const mostBytes = 8_388_608;

/**
 * A file that is still being written, as a source of bytes: reading waits for what has not come, adding for
 * whoever reads. Its size is infinite until it has ended.
 */
export class GrowingBytes implements ByteSource {
  private readonly pieces: { from: number; bytes: Uint8Array }[] = [];
  private written = 0;
  private readTo = 0;
  private ended = false;
  private unread = false;
  private waiting: (() => void)[] = [];

  get size() {
    return this.ended ? this.written : Infinity;
  }

  /** Resolves once little enough waits to be read. */
  async add(bytes: Uint8Array): Promise<void> {
    this.pieces.push({ from: this.written, bytes });
    this.written += bytes.length;
    this.changed();
    while (!this.unread && this.written - this.readTo > mostBytes) await this.change();
    if (this.unread) this.pieces.length = 0;
  }

  end(): void {
    this.ended = true;
    this.changed();
  }

  /** Nobody reads any more. */
  leave(): void {
    this.unread = true;
    this.pieces.length = 0;
    this.changed();
  }

  /** Throws RangeError for bytes that are not kept any more. */
  async read(offset: number, length: number): Promise<Uint8Array<ArrayBuffer>> {
    while (!this.ended && this.written < offset + length) {
      // Who waits for more holds nobody up.
      this.readTo = this.written;
      this.changed();
      await this.change();
    }
    const end = Math.min(offset + length, this.written);
    const result = new Uint8Array(Math.max(0, end - offset));
    if (result.length > 0 && offset < (this.pieces[0]?.from ?? this.written))
      throw new RangeError('These bytes are not kept any more');
    for (const { from, bytes } of this.pieces) {
      const first = Math.max(from, offset);
      const last = Math.min(from + bytes.length, end);
      if (last > first) result.set(bytes.subarray(first - from, last - from), first - offset);
    }
    this.readTo = Math.max(this.readTo, end);
    this.forget(offset - mostBytes);
    this.changed();
    return result;
  }

  private forget(before: number) {
    let count = 0;
    while (count < this.pieces.length && this.pieces[count].from + this.pieces[count].bytes.length < before)
      count++;
    this.pieces.splice(0, count);
  }

  private change(): Promise<void> {
    return new Promise((resolve) => this.waiting.push(resolve));
  }

  private changed() {
    const all = this.waiting;
    this.waiting = [];
    for (const wake of all) wake();
  }
}
