// Residuals and prediction of FLAC subframes (RFC 9639, 9.2.5 to 9.2.7).

const ended: i32 = -1;
const badCoding: i32 = -2;
const badPartitions: i32 = -3;

/** At least 57 bits from this one on, at the top; 16 bytes behind the last are read, which are zero. */
@inline
function bitsFrom(bytes: usize, bit: i32): u64 {
  return bswap<u64>(load<u64>(bytes + (bit >>> 3))) << (bit & 7);
}

/** The highest `count` bits, of which there may be none. */
@inline
function highest(bits: u64, count: i32): u64 {
  return (bits >>> 1) >>> (63 - count);
}

/**
 * Fills samples [order, count) from the bits from `bit` on, of which there are `ends`. `taps` are weights of
 * 32 bits, that of the latest sample first. Returns the bit behind the residual, or why there is none.
 */
export function flacResidual(bytes: usize, bit: i32, ends: i32, samples: usize, count: i32, taps: usize, order: i32, shift: i32): i32 {
  if (bit + 2 > ends) return ended;
  const head = bitsFrom(bytes, bit);
  const method = <i32>highest(head, 2);
  if (method > 1) return badCoding;
  if (bit + 6 > ends) return ended;
  const partitions = 1 << (<i32>highest(head, 6) & 15);
  const perPartition = count / partitions;
  if (perPartition * partitions != count || perPartition < order) return badPartitions;
  bit += 6;
  const parameterBits = 4 + method;
  const escape = (1 << parameterBits) - 1;
  let i = order;
  for (let partition = 1; partition <= partitions; partition++) {
    if (bit + parameterBits > ends) return ended;
    const parameter = <i32>highest(bitsFrom(bytes, bit), parameterBits);
    bit += parameterBits;
    const end = partition * perPartition;
    if (parameter == escape) {
      if (bit + 5 > ends) return ended;
      const width = <i32>highest(bitsFrom(bytes, bit), 5);
      bit += 5;
      for (; i < end; i++, bit += width) {
        if (bit + width > ends) return ended;
        // A number that is not there at all is 0.
        store<i32>(samples + (i << 2), width == 0 ? 0 : <i32>(<i64>bitsFrom(bytes, bit) >> (64 - width)));
      }
      continue;
    }
    for (; i < end; i++) {
      let bits = bitsFrom(bytes, bit);
      let zeros = <i32>clz(bits);
      let folded: u64;
      if (zeros + 1 + parameter <= 57 && bit + zeros + 1 + parameter <= ends) {
        folded = (<u64>zeros << parameter) | highest(bits << (zeros + 1), parameter);
        bit += zeros + 1 + parameter;
      } else {
        let all: u64 = 0;
        while (zeros >= 57) {
          all += 57;
          bit += 57;
          if (bit >= ends) return ended;
          bits = bitsFrom(bytes, bit);
          zeros = <i32>clz(bits);
        }
        bit += zeros + 1;
        if (bit + parameter > ends) return ended;
        folded = ((all + zeros) << parameter) | highest(bitsFrom(bytes, bit), parameter);
        bit += parameter;
      }
      store<i32>(samples + (i << 2), <i32>(folded >>> 1) ^ -(<i32>folded & 1));
    }
  }
  for (let at = samples + (order << 2), last = samples + (count << 2); at < last; at += 4) {
    let sum: i64 = 0;
    for (let k = 0, before = at - 4; k < order; k++, before -= 4)
      sum += <i64>load<i32>(taps + (k << 2)) * <i64>load<i32>(before);
    store<i32>(at, load<i32>(at) + <i32>(sum >> shift));
  }
  return bit;
}
