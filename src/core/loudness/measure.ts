import type { Planar } from '../base/audio';
import { amplitudeToDb, powerToDb } from '../base/units';
import { ChannelMeter, type ChannelMark } from './channelMeter';
import { highestMean, integratedLoudness, loudnessOf, loudnessRange, slidingMeans } from './gating';
import { RelationMeter, type RelationMark, type StereoRelation } from './channelRelation';
import { levelHistogram, loudestPlaces, silentStretches, type LoudPlace, type TimeRange } from './places';
import { measureRoom } from './room';
import { TruePeakMeter, type TruePeakMark } from './truePeak';

/** The standard measured by, written into reports. */
export const measurementStandard = 'ITU-R BS.1770-5, EBU Tech 3341/3342';

/**
 * Everything a specification can ask about finished audio. Levels are −∞ for silence; a level never is NaN.
 */
export interface Measurement {
  frames: number;
  rateHz: number;
  channels: number;
  durationSeconds: number;
  integratedLufs: number;
  loudnessRangeLu: number;
  momentaryMaxLufs: number;
  shortTermMaxLufs: number;
  truePeakDbtp: number;
  samplePeakDbfs: number;
  /**
   * RMS of the whole, all channels together, against a sample value of 1.0 (a full-scale sine is −3.01 dBFS).
   */
  rmsDbfs: number;
  /** See measureRoom for window and percentile. */
  noiseFloorDbfs: number;
  headSeconds: number;
  tailSeconds: number;
  digitalSilenceSeconds: number;
  clippedSamples: number;
  /**
   * The largest offset of a channel from zero, dBFS; `dcOffsets` has each channel's, linear: the median of
   * the means of 10 ms, so that a thump or a clipped word, whose mean is not zero either, is not taken for
   * one.
   */
  dcOffsetDbfs: number;
  dcOffsets: number[];
  /** RMS of the speech alone, dBFS. */
  speechDbfs: number;
  /** The longest pause between the first word and the last. */
  longestPauseSeconds: number;
  longestPause: TimeRange;
  /** The middle one of the pauses of at least 0.3 s: how the reading is spaced; 0 without any. */
  usualPauseSeconds: number;
  /** Where it is loudest, loudest first. */
  loudest: LoudPlace[];
  /** Runs of clipped samples and of digital silence, in order of time. */
  clippedRuns: TimeRange[];
  silences: TimeRange[];
  /** See levelHistogram. */
  histogram: number[];
  /** Of two channels; null for any other number. */
  stereo: StereoRelation | null;
  /** Short-term loudness (3 s, LUFS) at every `stepSeconds`; entry i ends at 3 s + i × stepSeconds. */
  shortTerm: { stepSeconds: number; lufs: number[] };
}

/**
 * BS.1770-5 channel weights: front 1, surround 1.41, LFE 0. Five channels are L R C Ls Rs; six are L R C LFE
 * Ls Rs.
 */
export function channelWeights(channels: number): number[] {
  if (channels === 5) return [1, 1, 1, 1.41, 1.41];
  if (channels === 6) return [1, 1, 1, 0, 1.41, 1.41];
  return Array.from({ length: channels }, () => 1);
}

/** Where a measurement stands at the end of a hop: enough to go on from there. */
export interface MeterMark {
  readonly frames: number;
  readonly meters: readonly ChannelMark[];
  readonly truePeaks: readonly TruePeakMark[];
  readonly relation: RelationMark | null;
}

/** Measures audio as it streams by; any chunking gives the same result, and so does going on from a mark. */
export class Meter {
  readonly hopFrames: number;
  private readonly meters: ChannelMeter[];
  private readonly truePeaks: TruePeakMeter[];
  private readonly relation: RelationMeter | null;
  private frames = 0;
  private finished = false;

  constructor(
    readonly rateHz: number,
    readonly channels: number,
  ) {
    this.hopFrames = Math.round(rateHz / 100);
    this.meters = Array.from({ length: channels }, () => new ChannelMeter(rateHz, this.hopFrames));
    this.relation = channels === 2 ? new RelationMeter() : null;
    this.truePeaks = Array.from({ length: channels }, () => new TruePeakMeter(rateHz));
  }

  process(audio: Planar): void {
    this.frames += audio[0].length;
    for (let channel = 0; channel < this.channels; channel++) {
      this.meters[channel].process(audio[channel]);
      this.truePeaks[channel].process(audio[channel]);
    }
    this.relation?.process(audio[0], audio[1]);
  }

  /** Only where a multiple of `hopFrames` has been taken in. */
  mark(): MeterMark {
    return {
      frames: this.frames,
      meters: this.meters.map((meter) => meter.mark()),
      truePeaks: this.truePeaks.map((meter) => meter.mark()),
      relation: this.relation?.mark() ?? null,
    };
  }

  /** Goes on from a mark; for a meter that has taken nothing in yet. */
  resume(mark: MeterMark): void {
    this.frames = mark.frames;
    this.meters.forEach((meter, channel) => meter.resume(mark.meters[channel]));
    this.truePeaks.forEach((meter, channel) => meter.resume(mark.truePeaks[channel]));
    if (mark.relation) this.relation?.resume(mark.relation);
  }

  /**
   * Takes over the rest of an earlier measurement (not finished yet then, finished now) whose audio is the
   * same from here on. False, and nothing changed, where the result could not be exactly that of measuring
   * on: the filters are not in the same state yet, or a peak cannot be told apart.
   */
  takeOver(earlier: Meter, mark: MeterMark): boolean {
    if (this.relation || mark.frames !== this.frames) return false;
    const here = this.mark();
    const same = here.meters.every((meter, channel) =>
      meter.filter.every((value, i) => value === mark.meters[channel].filter[i]),
    );
    const pendingSame = here.truePeaks.every(({ pending }, channel) => {
      const other = mark.truePeaks[channel].pending;
      return pending.length === other.length && pending.every((value, i) => value === other[i]);
    });
    // The earlier peak may have been where the audio is another now.
    const peaksKnown = this.truePeaks.every(
      ({ peak }, channel) =>
        earlier.truePeaks[channel].peak > mark.truePeaks[channel].highest ||
        peak >= earlier.truePeaks[channel].peak,
    );
    const clipsKnown = [...this.meters, ...earlier.meters].every((meter) => meter.clipsSplitAt(this.frames));
    if (!same || !pendingSame || !peaksKnown || !clipsKnown) return false;
    this.frames = earlier.frames;
    this.meters.forEach((meter, channel) => meter.append(earlier.meters[channel], mark.meters[channel]));
    this.truePeaks.forEach((meter, channel) => meter.raise(earlier.truePeaks[channel].peak));
    this.finished = true;
    return true;
  }

  /**
   * After `takeOver`: later marks of the earlier measurement as marks of this one. `base` is its mark, and
   * `here` this one's, where it was taken over. Ends with the first mark whose peak cannot be told.
   */
  rebase(later: readonly MeterMark[], base: MeterMark, here: MeterMark): MeterMark[] {
    const marks: MeterMark[] = [];
    for (const mark of later) {
      const truePeaks = mark.truePeaks.map(({ pending, highest }, channel) => {
        const [before, now] = [base.truePeaks[channel].highest, here.truePeaks[channel].highest];
        return highest > before || now >= before
          ? { pending, highest: Math.max(now, highest > before ? highest : 0) }
          : null;
      });
      const known = truePeaks.filter((peak) => peak !== null);
      if (known.length < truePeaks.length) break;
      marks.push({
        frames: mark.frames,
        meters: this.meters.map((meter, channel) =>
          meter.rebase(mark.meters[channel], base.meters[channel], here.meters[channel]),
        ),
        truePeaks: known,
        relation: null,
      });
    }
    return marks;
  }

  /** Ends the measurement; the meter takes no more audio afterwards. */
  finish(): Measurement {
    if (!this.finished) for (const meter of this.truePeaks) meter.finish();
    this.finished = true;
    const { meters, truePeaks, frames, rateHz, channels, hopFrames } = this;
    const weights = channelWeights(channels);
    const weighted = combine(
      meters.map((meter) => meter.weighted.toArray()),
      weights,
      hopFrames,
    );
    const plain = combine(
      meters.map((meter) => meter.plain.toArray()),
      meters.map(() => 1 / channels),
      hopFrames,
    );
    const hopSeconds = hopFrames / rateHz;
    const shortTerm = slidingMeans(weighted, 300, 10);
    const room = measureRoom(plain);
    const dcOffsets = meters.map((meter) => median(meter.totals.toArray()) / hopFrames);
    const hopPeaks = meters
      .map((meter) => meter.hopPeaks.toArray())
      .reduce((highest, peaks) => highest.map((peak, hop) => Math.max(peak, peaks[hop])));
    const pause = {
      from: room.longestPause.from * hopSeconds,
      to: room.longestPause.to * hopSeconds,
    };
    const squares = meters.reduce((sum, meter) => sum + meter.squares, 0);
    return {
      frames,
      rateHz,
      channels,
      durationSeconds: frames / rateHz,
      integratedLufs: integratedLoudness(slidingMeans(weighted, 40, 10)),
      loudnessRangeLu: loudnessRange(shortTerm),
      momentaryMaxLufs: loudnessOf(highestMean(weighted, 40)),
      shortTermMaxLufs: loudnessOf(highestMean(weighted, 300)),
      truePeakDbtp: amplitudeToDb(Math.max(...truePeaks.map((meter) => meter.peak))),
      samplePeakDbfs: amplitudeToDb(Math.max(...meters.map((meter) => meter.peak))),
      rmsDbfs: powerToDb(frames === 0 ? 0 : squares / (frames * channels)),
      noiseFloorDbfs: room.noiseFloorDbfs,
      headSeconds: room.headHops * hopSeconds,
      tailSeconds: room.tailHops * hopSeconds,
      digitalSilenceSeconds: room.digitalSilenceHops * hopSeconds,
      clippedSamples: meters.reduce((sum, meter) => sum + meter.clippedSamples, 0),
      dcOffsetDbfs: amplitudeToDb(Math.max(...dcOffsets.map(Math.abs))),
      dcOffsets,
      speechDbfs: room.speechDbfs,
      longestPauseSeconds: pause.to - pause.from,
      longestPause: pause,
      usualPauseSeconds: room.usualPauseHops * hopSeconds,
      loudest: loudestPlaces(hopPeaks, hopSeconds),
      clippedRuns: meters
        .flatMap((meter) => meter.clippedRuns)
        .map((run) => ({ from: run.from / rateHz, to: (run.from + run.frames) / rateHz }))
        .sort((a, b) => a.from - b.from),
      silences: silentStretches(plain, hopSeconds),
      histogram: levelHistogram(plain),
      stereo: this.relation?.finish() ?? null,
      shortTerm: { stepSeconds: hopSeconds * 10, lufs: Array.from(shortTerm, loudnessOf) },
    };
  }
}

/** The middle value; 0 of nothing. */
function median(values: Float64Array): number {
  const sorted = values.slice().sort();
  return sorted.length === 0 ? 0 : sorted[Math.floor(sorted.length / 2)];
}

function combine(perChannel: Float64Array[], weights: number[], hopFrames: number): Float64Array {
  const means = new Float64Array(perChannel[0].length);
  perChannel.forEach((sums, channel) => {
    const scale = weights[channel] / hopFrames;
    for (let i = 0; i < sums.length; i++) means[i] += sums[i] * scale;
  });
  return means;
}
