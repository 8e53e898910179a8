import { BitReader, bitsEnd } from '../../base/bitReader';

/** Why there is no residual: the bytes end before it does, or its first bits say what cannot be. */
export const flacFaults = { end: -1, coding: -2, partitions: -3 };

/**
 * Rice-coded residuals in partitions (RFC 9639, 9.2.7), and to each the prediction from the samples before it
 * (9.2.5, 9.2.6).
 */
export function flacResidual(
  bytes: Uint8Array,
  bit: number,
  samples: Int32Array,
  coefficients: readonly number[],
  shift: number,
): number {
  const reader = new BitReader(bytes, bit);
  try {
    const fault = readResidual(reader, samples, coefficients.length);
    if (fault < 0) return fault;
  } catch (error) {
    if (error !== bitsEnd) throw error;
    return flacFaults.end;
  }
  const scale = 2 ** -shift;
  // Products of 24-bit samples and 15-bit coefficients pass 32 bits; doubles hold them exactly.
  const taps = Float64Array.from(coefficients);
  const order = taps.length;
  for (let i = order; i < samples.length; i++) {
    let sum = 0;
    for (let k = 0; k < order; k++) sum += taps[k] * samples[i - 1 - k];
    samples[i] += Math.floor(sum * scale);
  }
  return reader.at;
}

/** Into `samples` from `order` on; 0, or a fault. */
function readResidual(reader: BitReader, samples: Int32Array, order: number): number {
  const method = reader.unsigned(2);
  if (method > 1) return flacFaults.coding;
  const partitions = 1 << reader.unsigned(4);
  const perPartition = samples.length / partitions;
  if (!Number.isInteger(perPartition) || perPartition < order) return flacFaults.partitions;
  const parameterBits = method === 0 ? 4 : 5;
  const escape = (1 << parameterBits) - 1;
  for (let partition = 0; partition < partitions; partition++) {
    const parameter = reader.unsigned(parameterBits);
    const end = (partition + 1) * perPartition;
    let i = partition === 0 ? order : partition * perPartition;
    if (parameter === escape) {
      const width = reader.unsigned(5);
      for (; i < end; i++) samples[i] = width === 0 ? 0 : reader.signed(width);
      continue;
    }
    for (; i < end; i++) {
      const folded = reader.unary() * 2 ** parameter + (parameter === 0 ? 0 : reader.unsigned(parameter));
      samples[i] = folded % 2 === 0 ? folded / 2 : -(folded + 1) / 2;
    }
  }
  return 0;
}
