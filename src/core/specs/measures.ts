import { say } from '../../texts/say';
/**
 * What a specification can limit; each is a field of Measurement with the same name, or of what is known
 * beside it (`Judged`).
 */
export const measures = [
  'integratedLufs',
  'momentaryMaxLufs',
  'shortTermMaxLufs',
  'loudnessRangeLu',
  'truePeakDbtp',
  'samplePeakDbfs',
  'rmsDbfs',
  'noiseFloorDbfs',
  'dcOffsetDbfs',
  'headSeconds',
  'tailSeconds',
  'longestPauseSeconds',
  'durationSeconds',
  'fileMegabytes',
  'levelSpreadDb',
  'roomSpreadDb',
] as const;
export type Measure = (typeof measures)[number];

/** `low` and `high` bound what makes sense as a limit. */
interface MeasureInfo {
  name: string;
  unit: string;
  low: number;
  high: number;
  /** What the figure means, where the name does not say it all. */
  about?: string;
}

export const measureLabels: Record<Measure, MeasureInfo> = {
  integratedLufs: { name: say`Loudness`, unit: 'LUFS', low: -70, high: 0, about: say`integrated, gated` },
  momentaryMaxLufs: { name: say`Momentary`, unit: 'LUFS', low: -70, high: 10, about: say`loudest 400 ms` },
  shortTermMaxLufs: { name: say`Short-term`, unit: 'LUFS', low: -70, high: 10, about: say`loudest 3 s` },
  loudnessRangeLu: { name: say`Range`, unit: 'LU', low: 0, high: 60, about: say`loudness range` },
  truePeakDbtp: { name: say`True peak`, unit: 'dBTP', low: -60, high: 6 },
  samplePeakDbfs: { name: say`Sample peak`, unit: 'dBFS', low: -60, high: 0 },
  rmsDbfs: { name: 'RMS', unit: 'dBFS', low: -70, high: 0, about: say`of the whole file` },
  noiseFloorDbfs: { name: say`Room`, unit: 'dBFS', low: -120, high: 0, about: say`RMS of the pauses` },
  dcOffsetDbfs: { name: say`DC offset`, unit: 'dBFS', low: -140, high: 0 },
  headSeconds: { name: say`Head`, unit: 's', low: 0, high: 60, about: say`room tone before the first word` },
  tailSeconds: { name: say`Tail`, unit: 's', low: 0, high: 60, about: say`room tone after the last word` },
  longestPauseSeconds: { name: say`Longest pause`, unit: 's', low: 0, high: 600 },
  durationSeconds: { name: say`Length`, unit: 's', low: 0, high: 86_400 },
  fileMegabytes: { name: say`File size`, unit: 'MB', low: 0, high: 1_000_000 },
  levelSpreadDb: {
    name: say`Speech, parts`,
    unit: 'dB',
    low: 0,
    high: 60,
    about: say`speech level against the median of all parts`,
  },
  roomSpreadDb: {
    name: say`Room, parts`,
    unit: 'dB',
    low: 0,
    high: 60,
    about: say`room level against the median of all parts`,
  },
};

/** Levels that are RMS, and so depend on the convention for full scale. */
export const rmsMeasures: readonly Measure[] = ['rmsDbfs', 'noiseFloorDbfs'];

export const rmsConventions = ['full-scale', 'sine'] as const;
/**
 * What 0 dBFS RMS is: a constant sample value of 1.0 (a full-scale sine reads −3.01), or a full-scale sine
 * (AES17: 3.01 dB more, value from memory).
 */
export type RmsConvention = (typeof rmsConventions)[number];

/** 20 log10(√2): what an RMS figure gains by the sine convention (AES17). */
export const sineConventionDb = 10 * Math.log10(2);
