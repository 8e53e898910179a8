import { powerToDb } from '../base/units';
import { PowerSpectrum } from './spectrum';

/**
 * Exact middle frequencies of third-octave bands, 50 Hz to 16 kHz, base ten (IEC 61260-1; values from its
 * formula 10^(n/10)).
 */
export const thirdOctavesHz: readonly number[] = Array.from({ length: 26 }, (_, n) => 10 ** ((n + 17) / 10));

const windowFrames = 4096;
/** One window of so many is looked at: a long-term mean of speech needs no more. */
const everyNth = 4;

/**
 * Long-term mean spectrum in third-octave bands, of one channel as it streams by. Any chunking gives the same
 * result.
 */
export class LongTermSpectrum {
  private readonly spectrum = new PowerSpectrum(windowFrames);
  private readonly window = new Float32Array(windowFrames);
  private readonly sums = new Float64Array(thirdOctavesHz.length);
  private filled = 0;
  private skipped = 0;
  private windows = 0;

  constructor(private readonly rateHz: number) {}

  process(samples: Float32Array): void {
    for (let from = 0; from < samples.length;) {
      if (this.skipped > 0) {
        const step = Math.min(this.skipped, samples.length - from);
        this.skipped -= step;
        from += step;
        continue;
      }
      const step = Math.min(windowFrames - this.filled, samples.length - from);
      this.window.set(samples.subarray(from, from + step), this.filled);
      this.filled += step;
      from += step;
      if (this.filled === windowFrames) this.endWindow();
    }
  }

  /**
   * Mean level of each band, RMS in dBFS against a sample value of 1.0; −∞ for silence and for bands over
   * half the rate.
   */
  finish(): number[] {
    return Array.from(this.sums, (sum) => powerToDb(this.windows === 0 ? 0 : sum / this.windows));
  }

  private endWindow() {
    const powers = this.spectrum.of(this.window, 0);
    const binHz = this.rateHz / windowFrames;
    thirdOctavesHz.forEach((middle, band) => {
      const from = Math.max(1, Math.ceil((middle * 10 ** -0.05) / binHz));
      const to = Math.min(powers.length - 1, Math.max(from, Math.floor((middle * 10 ** 0.05) / binHz)));
      for (let bin = from; bin <= to; bin++) this.sums[band] += powers[bin];
    });
    this.windows++;
    this.filled = 0;
    this.skipped = (everyNth - 1) * windowFrames;
  }
}
