import { decimal, say } from '../../texts/say';
import { formatDb, formatTime } from '../base/units';
import type { Measurement } from '../loudness/measure';
import { measureLabels, measures, rmsMeasures, sineConventionDb, type Measure } from './measures';
import type { Limit, Spec } from './spec';

export interface Verdict {
  measure: Measure;
  /** As measured, in the spec's convention; −∞ for silence. */
  value: number;
  min: number | null;
  max: number | null;
  passes: boolean;
  /** How far outside the limit, in the measure's unit; 0 inside; ∞ for silence under a lower limit. */
  distance: number;
  /** A sentence for the voice artist. */
  message: string;
}

/**
 * A measurement with what is not in the audio itself; a limit on something that is not known is not judged.
 */
export type Judged = Measurement & {
  fileMegabytes?: number;
  /** Distance of the speech and the room level from the median of all parts. */
  levelSpreadDb?: number;
  roomSpreadDb?: number;
};

/** Limits compare in the resolution they are given in, so that −23.0004 does not fail a limit of −23. */
const resolution = 1e-3;

export function judge(spec: Spec, measurement: Judged): Verdict[] {
  return measures.flatMap((measure) => {
    const limit = spec.limits[measure];
    const value = valueFor(spec, measure, measurement);
    if (value === undefined || !limit || (limit.min === null && limit.max === null)) return [];
    return [judgeOne(measure, value, limit, measurement)];
  });
}

/** A measured value in the convention of the spec. */
export function valueFor(
  { rmsConvention }: Pick<Spec, 'rmsConvention'>,
  measure: Measure,
  measurement: Judged,
): number | undefined {
  const value = measurement[measure];
  return value !== undefined && rmsConvention === 'sine' && rmsMeasures.includes(measure)
    ? value + sineConventionDb
    : value;
}

export const passes = (verdicts: readonly Verdict[]) => verdicts.every((verdict) => verdict.passes);

function judgeOne(measure: Measure, value: number, { min, max }: Limit, measurement: Judged): Verdict {
  const under = min === null ? 0 : min - value;
  const over = max === null ? 0 : value - max;
  const distance = Math.max(0, under, over);
  const passed = distance <= resolution;
  return {
    measure,
    value,
    min,
    max,
    passes: passed,
    distance: passed ? 0 : distance,
    message: passed
      ? passMessage(measure, value, measurement)
      : faultMessage(measure, value, { min, max }, under > over),
  };
}

/** A value with its unit, as the screen and the report show it. */
export function formatMeasure(measure: Measure, value: number): string {
  const { unit } = measureLabels[measure];
  if (measure === 'durationSeconds') return formatTime(value);
  if (unit === 's') return `${decimal(value, 2)} s`;
  if (unit === 'MB') return `${decimal(value, 1)} MB`;
  return formatDb(value, unit);
}

function passMessage(measure: Measure, value: number, measurement: Judged): string {
  if (measure === 'noiseFloorDbfs' && value === -Infinity && measurement.digitalSilenceSeconds > 0) {
    return say`The pauses are digital silence: no room tone. It is under the limit, but a listener hears the hole.`;
  }
  return say`${measureLabels[measure].name} ${formatMeasure(measure, value)} is within limits`;
}

function faultMessage(measure: Measure, value: number, { min, max }: Limit, under: boolean): string {
  const { name } = measureLabels[measure];
  const shown = formatMeasure(measure, value);
  const wanted = describeLimit(measure, { min, max });
  if (measure === 'headSeconds' || measure === 'tailSeconds') {
    return say`${name} is ${shown} of room tone; ${wanted} wanted`;
  }
  if (value === -Infinity) return say`${name}: there is only silence; ${wanted} wanted`;
  const distance = under ? (min ?? value) - value : value - (max ?? value);
  return say`${name} ${shown} is ${formatDistance(measure, distance)} ${under ? say`under the lowest` : say`over the highest`} allowed (${wanted})`;
}

function formatDistance(measure: Measure, distance: number): string {
  const { unit } = measureLabels[measure];
  if (unit === 's' || unit === 'MB') return formatMeasure(measure, distance);
  return formatDb(distance, unit === 'LUFS' || unit === 'LU' ? 'LU' : 'dB');
}

/** “−23.0 to −18.0 dBFS”, “at most −3.0 dBFS”. */
export function describeLimit(measure: Measure, { min, max }: Limit): string {
  if (min !== null && max !== null) {
    const { unit } = measureLabels[measure];
    if (measure === 'durationSeconds') return say`${formatTime(min)} to ${formatTime(max)}`;
    if (unit === 's' || unit === 'MB') return say`${min} to ${max} ${unit}`;
    return say`${formatDb(min, '')} to ${formatDb(max, unit)}`;
  }
  if (max !== null) return say`at most ${formatMeasure(measure, max)}`;
  return say`at least ${formatMeasure(measure, min ?? -Infinity)}`;
}
