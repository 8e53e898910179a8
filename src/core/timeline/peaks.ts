/** One peak covers this many frames: minimum, maximum and mean square, in this order. */
export const peakFrames = 256;
export const peakFields = 3;

/** Peaks of one channel; a last stretch that is not full counts with the frames it has. */
export function computePeaks(samples: Float32Array): Float32Array<ArrayBuffer> {
  const count = Math.ceil(samples.length / peakFrames);
  const peaks = new Float32Array(count * peakFields);
  for (let i = 0; i < count; i++) {
    const to = Math.min(samples.length, (i + 1) * peakFrames);
    let low = Infinity;
    let high = -Infinity;
    let squares = 0;
    for (let frame = i * peakFrames; frame < to; frame++) {
      const value = samples[frame];
      if (value < low) low = value;
      if (value > high) high = value;
      squares += value * value;
    }
    peaks[i * peakFields] = low;
    peaks[i * peakFields + 1] = high;
    peaks[i * peakFields + 2] = squares / (to - i * peakFrames);
  }
  return peaks;
}
