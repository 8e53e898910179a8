/**
 * Thrown where numbers are asked for beyond the last byte; made once, since an error with its stack takes
 * longer than reading.
 */
export const bitsEnd = new RangeError('The data ends');

/** Fewer bits than a 32-bit word that begins at any bit of a byte holds. */
const wordBits = 25;

/** Reads numbers of any width, their highest bit first. Throws `bitsEnd` where the bytes end. */
export class BitReader {
  private readonly view: DataView;
  /** A whole word can be read from bytes up to here. */
  private readonly lastWord: number;

  /** `at` is the bit to begin with. */
  constructor(
    private readonly bytes: Uint8Array,
    public at: number,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    this.lastWord = bytes.length - 4;
  }

  align() {
    this.at = Math.ceil(this.at / 8) * 8;
  }

  /** At most 32 bits, unsigned. */
  unsigned(count: number): number {
    const byte = this.at >>> 3;
    if (count > wordBits || count === 0 || byte > this.lastWord) return this.unsignedByBytes(count);
    const word = this.view.getUint32(byte) << (this.at & 7);
    this.at += count;
    return word >>> (32 - count);
  }

  private unsignedByBytes(count: number): number {
    let value = 0;
    let left = count;
    while (left > 0) {
      const byte = this.bytes[this.at >>> 3];
      if (byte === undefined) throw bitsEnd;
      const offset = this.at & 7;
      const take = Math.min(left, 8 - offset);
      value = value * (1 << take) + ((byte >> (8 - offset - take)) & ((1 << take) - 1));
      this.at += take;
      left -= take;
    }
    return value;
  }

  signed(count: number): number {
    const value = this.unsigned(count);
    return value >= 2 ** (count - 1) ? value - 2 ** count : value;
  }

  /** Zeros before the next one. */
  unary(): number {
    let zeros = 0;
    for (;;) {
      const byte = this.bytes[this.at >>> 3];
      if (byte === undefined) throw bitsEnd;
      const offset = this.at & 7;
      const rest = (byte << offset) & 0xff;
      if (rest !== 0) {
        const here = Math.clz32(rest) - 24;
        this.at += here + 1;
        return zeros + here;
      }
      zeros += 8 - offset;
      this.at += 8 - offset;
    }
  }
}
