import type { ByteSource } from '@/core/formats/bytes';

/** A file or blob as a source of bytes: read in pieces, never held whole. */
export class BlobBytes implements ByteSource {
  constructor(private readonly blob: Blob) {}

  get size() {
    return this.blob.size;
  }

  async read(offset: number, length: number) {
    return new Uint8Array(await this.blob.slice(offset, offset + length).arrayBuffer());
  }
}
