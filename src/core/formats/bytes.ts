/** Random access to bytes: a file, a blob or memory. */
export interface ByteSource {
  readonly size: number;
  /** Bytes [offset, offset + length); fewer only at the end. */
  read(offset: number, length: number): Promise<Uint8Array<ArrayBuffer>>;
}

/**
 * Where a writer puts its bytes, in order; `patch` goes back over what was written, for fields known only at
 * the end.
 */
export interface ByteTarget {
  write(bytes: Uint8Array): Promise<void> | void;
  patch(offset: number, bytes: Uint8Array): Promise<void> | void;
}

export class MemorySource implements ByteSource {
  constructor(private readonly bytes: Uint8Array<ArrayBuffer>) {}

  get size() {
    return this.bytes.length;
  }

  async read(offset: number, length: number) {
    return this.bytes.subarray(offset, offset + length);
  }
}

export class MemoryTarget implements ByteTarget {
  private readonly chunks: Uint8Array[] = [];
  private readonly patches: { offset: number; bytes: Uint8Array }[] = [];

  write(bytes: Uint8Array) {
    this.chunks.push(bytes.slice());
  }

  patch(offset: number, bytes: Uint8Array) {
    this.patches.push({ offset, bytes: bytes.slice() });
  }

  toBytes(): Uint8Array<ArrayBuffer> {
    const all = joinBytes(this.chunks);
    for (const patch of this.patches) all.set(patch.bytes, patch.offset);
    return all;
  }
}

export function ascii(text: string): Uint8Array<ArrayBuffer> {
  return Uint8Array.from(text, (letter) => letter.charCodeAt(0));
}

export function joinBytes(pieces: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    all.set(piece, at);
    at += piece.length;
  }
  return all;
}

export const asciiAt = (bytes: Uint8Array, offset: number, length: number) =>
  String.fromCharCode(...bytes.subarray(offset, offset + length));

export const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
