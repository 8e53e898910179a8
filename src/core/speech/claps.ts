import { Biquad, highPass } from '../dsp/biquad';
import { PowerSpectrum } from '../dsp/spectrum';
import { amplitudeToDb, powerToDb } from '../base/units';

/** Doors and plosives have nothing up here, a clap most of its sound. */
const highPassHz = 900;
/**
 * A clap beside the microphone reaches this sample peak, and this level over its 10 ms; a mouse button does
 * not.
 */
const lowestPeakDbfs = -22;
const lowestLevelDbfs = -32;
/** It is the loudest thing for this long before and after it. */
const aloneSeconds = 0.12;
/**
 * How far the level drops to before the clap, and to just after and well after it; a drop counts up to
 * `mostDropDb`, or noise decides.
 */
const mostDropDb = 25;
const parts = {
  clap: { from: -0.002, to: 0.008 },
  before: { from: -0.06, to: -0.01 },
  middle: { from: 0.05, to: 0.09 },
  after: { from: 0.14, to: 0.24 },
} as const;
/**
 * Together the three drops, the peak over −30 dBFS (at most 20 dB) and ten times the flatness have to reach
 * this.
 */
const leastScore = 72;
const leastFlatness = 0.22;
const flatBand = { low: 1000, high: 7500 };

/** Time needed after a clap to tell that it was one. */
const lookAheadSeconds = parts.after.to + 0.01;
const keptSeconds = 1;

/**
 * Finds claps and clicks made beside the microphone as audio streams by: short, loud, flat in their spectrum,
 * standing alone. Any chunking gives the same result; a clap is told about a quarter of a second after it.
 */
export class ClapDetector {
  private readonly filter: Biquad;
  private readonly spectrum: PowerSpectrum;
  private readonly kept: Float32Array;
  /** Frame of the stream at `kept[0]`, and the number of frames kept. */
  private start = 0;
  private length = 0;
  /** Every frame before this one has been decided. */
  private decided = 0;

  constructor(private readonly rateHz: number) {
    this.filter = new Biquad(highPass(highPassHz, rateHz));
    this.spectrum = new PowerSpectrum(2 ** Math.round(Math.log2(rateHz * 0.012)));
    this.kept = new Float32Array(Math.ceil(keptSeconds * rateHz));
  }

  /**
   * Takes audio in and returns the frames, counted from the start of the stream, at which claps were found.
   */
  process(samples: Float32Array): number[] {
    const found: number[] = [];
    const most = this.kept.length / 4;
    for (let from = 0; from < samples.length; from += most) {
      this.keep(samples.subarray(from, from + most));
      found.push(...this.decide());
    }
    return found;
  }

  private keep(fresh: Float32Array) {
    const surplus = Math.max(0, this.length + fresh.length - this.kept.length);
    this.kept.copyWithin(0, surplus, this.length);
    this.start += surplus;
    this.length += fresh.length - surplus;
    const place = this.kept.subarray(this.length - fresh.length, this.length);
    place.set(fresh);
    this.filter.process(place);
  }

  private decide(): number[] {
    const { rateHz, kept } = this;
    const limit = 10 ** (lowestPeakDbfs / 20);
    const alone = Math.round(aloneSeconds * rateHz);
    const until = this.start + this.length - Math.round(lookAheadSeconds * rateHz);
    const found: number[] = [];
    for (let frame = Math.max(this.decided, this.start); frame < until; frame++) {
      const at = frame - this.start;
      const magnitude = Math.abs(kept[at]);
      if (magnitude < limit) continue;
      const louder = this.louder(at, alone, magnitude);
      if (louder > at) frame = Math.min(until, louder + this.start) - 1;
      else if (louder < 0 && this.isClap(at, magnitude)) {
        found.push(frame);
        frame += alone;
      }
    }
    this.decided = Math.max(this.decided, until);
    return found;
  }

  /** The place of a louder sample within reach of `at`, the later one first; −1 where there is none. */
  private louder(at: number, reach: number, magnitude: number): number {
    const { kept } = this;
    for (let i = at + 1; i < Math.min(this.length, at + reach); i++)
      if (Math.abs(kept[i]) > magnitude) return i;
    for (let i = Math.max(0, at - reach); i < at; i++) if (Math.abs(kept[i]) > magnitude) return i;
    return -1;
  }

  private isClap(at: number, magnitude: number): boolean {
    const level = this.levelOf(at, parts.clap);
    if (level < lowestLevelDbfs) return false;
    const drop = (part: { from: number; to: number }) => Math.min(mostDropDb, level - this.levelOf(at, part));
    const drops = drop(parts.before) + drop(parts.middle) + drop(parts.after);
    const flatness = this.flatness(at);
    const peak = Math.min(20, amplitudeToDb(magnitude) + 30);
    return flatness >= leastFlatness && drops + peak + 10 * flatness >= leastScore;
  }

  private levelOf(at: number, { from, to }: { from: number; to: number }): number {
    const first = Math.max(0, at + Math.round(from * this.rateHz));
    const last = Math.min(this.length, at + Math.round(to * this.rateHz));
    let sum = 0;
    for (let i = first; i < last; i++) sum += this.kept[i] * this.kept[i];
    return powerToDb(Math.max(sum / Math.max(1, last - first), 1e-12));
  }

  /** Spectral flatness: geometric over arithmetic mean of the powers in the band; 1 for white noise. */
  private flatness(at: number): number {
    const { spectrum, rateHz } = this;
    const powers = spectrum.of(this.kept.subarray(0, this.length), at - Math.round(spectrum.size / 4));
    const first = Math.ceil((flatBand.low * spectrum.size) / rateHz);
    const last = Math.min(powers.length - 1, Math.floor((flatBand.high * spectrum.size) / rateHz));
    let logs = 0;
    let sum = 0;
    for (let bin = first; bin <= last; bin++) {
      logs += Math.log(powers[bin] + 1e-20);
      sum += powers[bin];
    }
    const count = last - first + 1;
    return Math.exp(logs / count) / (sum / count + 1e-20);
  }
}
