import { decimal, say } from '../../texts/say';
import { formatDb } from '../base/units';
import { plainOutput, sameOutput, type Output } from '../timeline/output';
import type { SoundFix } from '../timeline/fixEdits';
import type { Look } from './looks';
import type { Measure } from './measures';

/** What can be done about a part, one by one or together. */
export const fixKinds = ['level', 'head', 'tail', 'silence'] as const;
export type FixKind = (typeof fixKinds)[number];

/** Which fix answers a fault of a measure. */
export const fixOfMeasure: Partial<Record<Measure, FixKind>> = {
  integratedLufs: 'level',
  momentaryMaxLufs: 'level',
  shortTermMaxLufs: 'level',
  truePeakDbtp: 'level',
  samplePeakDbfs: 'level',
  rmsDbfs: 'level',
  noiseFloorDbfs: 'level',
  dcOffsetDbfs: 'level',
  headSeconds: 'head',
  tailSeconds: 'tail',
};
export const fixOfLook: Partial<Record<Look['kind'], FixKind>> = { silence: 'silence', dc: 'level' };

/** “Raise 3.9 dB, limit at −3.1 dBFS”. Against what the part has now. */
export function describeLevel(output: Output, now: Output = plainOutput): string {
  const { gainDb, ceiling, dcOffsets } = output;
  const change = gainDb - now.gainDb;
  const steps = [
    Math.abs(change) >= 0.005 && `${change > 0 ? say`raise` : say`lower`} ${formatDb(Math.abs(change))}`,
    ceiling &&
      !sameOutput({ ...output, gainDb: 0 }, { ...now, gainDb: 0 }) &&
      say`limit at ${formatDb(ceiling.dbfs, ceiling.kind === 'true' ? 'dBTP' : 'dBFS')}`,
    !ceiling && now.ceiling && say`limit no more`,
    dcOffsets.some((offset) => offset !== 0) && say`take the DC offset out`,
  ].filter((step) => typeof step === 'string');
  const text = steps.join(', ');
  return text ? text[0].toUpperCase() + text.slice(1) : say`As it is`;
}

/** What a part's output does, for wherever it must not be forgotten: “+3.9 dB, limited at −3.1 dBFS”. */
export function describeOutput({ gainDb, ceiling, dcOffsets }: Output): string {
  const signed = `${gainDb > 0 ? '+' : ''}${formatDb(gainDb)}`;
  return [
    gainDb !== 0 && signed,
    ceiling && say`limited at ${formatDb(ceiling.dbfs, ceiling.kind === 'true' ? 'dBTP' : 'dBFS')}`,
    dcOffsets.some((offset) => offset !== 0) && say`DC offset out`,
  ]
    .filter((step) => typeof step === 'string')
    .join(', ');
}

/** What a sound fix does at one place. */
export function describeSound(kind: Exclude<FixKind, 'level'>, fix: SoundFix, rateHz: number): string {
  const seconds = (frames: number) => `${decimal(Math.abs(frames) / rateHz, 2)} s`;
  if (kind === 'silence')
    return fix.holes.length === 1
      ? say`Fill with room tone`
      : say`Fill ${fix.holes.length} holes with room tone`;
  const frames = fix[kind];
  return frames > 0 ? say`Extend by ${seconds(frames)} of room tone` : say`Strike ${seconds(frames)} of it`;
}

/** The part of a sound fix that the chosen kinds cover. */
export const chosenSound = (fix: SoundFix, kinds: ReadonlySet<FixKind>): SoundFix => ({
  head: kinds.has('head') ? fix.head : 0,
  tail: kinds.has('tail') ? fix.tail : 0,
  holes: kinds.has('silence') ? fix.holes : [],
});
