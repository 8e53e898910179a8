/** What of a WebAssembly memory is used; the core is compiled without the declarations of any host. */
export interface Memory {
  readonly buffer: ArrayBuffer;
  grow(pages: number): number;
}

const pageBytes = 65_536;
/** Compiled code keeps nothing of its own in memory. */
const firstByte = 1024;

/**
 * The memory of compiled code. Room is taken anew for each call, behind the table that stays; views are made
 * when room has been taken, since growing makes older ones useless.
 */
export class Room {
  private taken = firstByte;
  private kept: { table: Float64Array; end: number } | null = null;

  constructor(private readonly memory: Memory) {}

  /**
   * Forgets what was taken; then places for so many bytes each, on 16-byte boundaries, with 16 bytes to
   * spare.
   */
  take(...sizes: number[]): number[] {
    let at = this.kept ? this.kept.end : firstByte;
    const places = sizes.map((size) => {
      const place = at;
      at += Math.ceil(size / 16) * 16 + 16;
      return place;
    });
    const missing = at - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / pageBytes));
    this.taken = at;
    return places;
  }

  /** The place of a table that stays until another one does. */
  keep(table: Float64Array): number {
    if (this.kept?.table === table) return firstByte;
    this.kept = null;
    this.take(table.byteLength);
    this.doubles(firstByte, table.length).set(table);
    this.kept = { table, end: this.taken };
    return firstByte;
  }

  floats = (at: number, length: number) => new Float32Array(this.memory.buffer, at, length);
  doubles = (at: number, length: number) => new Float64Array(this.memory.buffer, at, length);
  integers = (at: number, length: number) => new Int32Array(this.memory.buffer, at, length);
  bytes = (at: number, length: number) => new Uint8Array(this.memory.buffer, at, length);
}
