import { formatDb, formatTime } from '../base/units';
import type { Measurement } from '../loudness/measure';
import { measureLabels, measures, type Limit, type Measure, type Spec } from './spec';

export interface Verdict {
  measure: Measure;
  /** As measured; −∞ for silence. */
  value: number;
  min: number | null;
  max: number | null;
  passes: boolean;
  /** How far outside the limit, in the measure's unit; 0 inside; ∞ for silence under a lower limit. */
  distance: number;
  /** A sentence for the voice artist. */
  message: string;
}

/** Limits compare in the resolution they are given in, so that −23.0004 does not fail a limit of −23. */
const resolution = 1e-3;

export function judge(spec: Spec, measurement: Measurement): Verdict[] {
  return measures.flatMap((measure) => {
    const limit = spec.limits[measure];
    if (!limit || (limit.min === null && limit.max === null)) return [];
    return [judgeOne(measure, limit, measurement)];
  });
}

export const passes = (verdicts: readonly Verdict[]) => verdicts.every((verdict) => verdict.passes);

function judgeOne(measure: Measure, { min, max }: Limit, measurement: Measurement): Verdict {
  const value = measurement[measure];
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
  if (unit === 's') return `${value.toFixed(2)} s`;
  return formatDb(value, unit);
}

function passMessage(measure: Measure, value: number, measurement: Measurement): string {
  if (measure === 'noiseFloorDbfs' && value === -Infinity && measurement.digitalSilenceSeconds > 0) {
    return 'The pauses are digital silence: no room tone. It is under the limit, but a listener hears the hole.';
  }
  return `${measureLabels[measure].name} ${formatMeasure(measure, value)} is within limits`;
}

function faultMessage(measure: Measure, value: number, { min, max }: Limit, under: boolean): string {
  const { name } = measureLabels[measure];
  const shown = formatMeasure(measure, value);
  const wanted = describeLimit(measure, { min, max });
  if (measure === 'headSeconds' || measure === 'tailSeconds') {
    return `${name} is ${shown} of room tone; ${wanted} wanted`;
  }
  if (value === -Infinity) return `${name}: there is only silence; ${wanted} wanted`;
  const distance = under ? (min ?? value) - value : value - (max ?? value);
  const by = measure === 'durationSeconds' ? formatTime(distance) : formatDb(distance, levelUnit(measure));
  return `${name} ${shown} is ${by} ${under ? 'under the lowest' : 'over the highest'} allowed (${wanted})`;
}

const levelUnit = (measure: Measure) =>
  measure === 'integratedLufs' || measure === 'loudnessRangeLu' ? 'LU' : 'dB';

/** “−23.0 to −18.0 dBFS”, “at most −3.0 dBFS”. */
export function describeLimit(measure: Measure, { min, max }: Limit): string {
  if (min !== null && max !== null) {
    const { unit } = measureLabels[measure];
    if (unit === 's' && measure !== 'durationSeconds') return `${min} to ${max} s`;
    if (measure === 'durationSeconds') return `${formatTime(min)} to ${formatTime(max)}`;
    return `${formatDb(min, '')} to ${formatDb(max, unit)}`;
  }
  if (max !== null) return `at most ${formatMeasure(measure, max)}`;
  return `at least ${formatMeasure(measure, min ?? -Infinity)}`;
}
