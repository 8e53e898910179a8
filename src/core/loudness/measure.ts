import type { Planar } from '../base/audio';
import { amplitudeToDb, powerToDb } from '../base/units';
import { ChannelMeter } from './channelMeter';
import { highestMean, integratedLoudness, loudnessOf, loudnessRange, slidingMeans } from './gating';
import { RelationMeter, type StereoRelation } from './channelRelation';
import { levelHistogram, loudestPlaces, silentStretches, type LoudPlace, type Stretch } from './places';
import { measureRoom } from './room';
import { TruePeakMeter } from './truePeak';

/** The standard measured by, written into reports. */
export const measurementStandard = 'ITU-R BS.1770-5, EBU Tech 3341/3342';

/** Everything a specification can ask about finished audio. Levels are −∞ for silence; a level never is NaN. */
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
  /** RMS of the whole, all channels together, against a sample value of 1.0 (a full-scale sine is −3.01 dBFS). */
  rmsDbfs: number;
  /** See measureRoom for window and percentile. */
  noiseFloorDbfs: number;
  headSeconds: number;
  tailSeconds: number;
  digitalSilenceSeconds: number;
  clippedSamples: number;
  /** The largest offset of a channel's mean from zero, dBFS; `dcOffsets` has each channel's, linear. */
  dcOffsetDbfs: number;
  dcOffsets: number[];
  /** RMS of the speech alone, dBFS. */
  speechDbfs: number;
  /** The longest pause between the first word and the last. */
  longestPauseSeconds: number;
  longestPause: Stretch;
  /** Where it is loudest, loudest first. */
  loudest: LoudPlace[];
  /** Runs of clipped samples and of digital silence, in order of time. */
  clippedRuns: Stretch[];
  silences: Stretch[];
  /** See levelHistogram. */
  histogram: number[];
  /** Of two channels; null for any other number. */
  stereo: StereoRelation | null;
  /** Short-term loudness (3 s, LUFS) at every `stepSeconds`; entry i ends at 3 s + i × stepSeconds. */
  shortTerm: { stepSeconds: number; lufs: number[] };
}

/** BS.1770-5 channel weights: front 1, surround 1.41, LFE 0. Five channels are L R C Ls Rs; six are L R C LFE Ls Rs. */
export function channelWeights(channels: number): number[] {
  if (channels === 5) return [1, 1, 1, 1.41, 1.41];
  if (channels === 6) return [1, 1, 1, 0, 1.41, 1.41];
  return Array.from({ length: channels }, () => 1);
}

/** Measures audio as it streams by; any chunking gives the same result. */
export class Meter {
  private readonly hopFrames: number;
  private readonly meters: ChannelMeter[];
  private readonly truePeaks: TruePeakMeter[];
  private readonly relation: RelationMeter | null;
  private frames = 0;

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

  /** Ends the measurement; the meter takes no more audio afterwards. */
  finish(): Measurement {
    for (const meter of this.meters) meter.finish();
    for (const meter of this.truePeaks) meter.finish();
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
    const dcOffsets = meters.map(({ total }) => (frames === 0 ? 0 : total / frames));
    const hopPeaks = meters
      .map((meter) => meter.hopPeaks.toArray())
      .reduce((highest, peaks) => highest.map((peak, hop) => Math.max(peak, peaks[hop])));
    const pause = {
      from: room.longestPause.from * hopSeconds,
      to: room.longestPause.to * hopSeconds,
    };
    const squares = meters.reduce((sum, meter) => sum + meter.totalSquares, 0);
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

function combine(perChannel: Float64Array[], weights: number[], hopFrames: number): Float64Array {
  const means = new Float64Array(perChannel[0].length);
  perChannel.forEach((sums, channel) => {
    const scale = weights[channel] / hopFrames;
    for (let i = 0; i < sums.length; i++) means[i] += sums[i] * scale;
  });
  return means;
}
