import { heardPieces, type JoinLengths, type SourceLengths } from './joins';
import type { PartRenderer } from './partRenderer';
import type { PieceTable } from './pieces';
import type { Range } from './range';
import { tracksOf, type Sounding } from './sounding';

/**
 * A jump counts as a step when it is this many times what the sound around it does from one sample to the
 * next, and over −46 dBFS.
 */
const timesUsual = 8;
const leastStep = 0.005;
const lookSeconds = 0.01;

/** A crossfade of this length leaves no step. */
const softSeconds = 0.002;

/** Both pieces that meet at a cut fade over it. */
function isSoft(
  table: PieceTable,
  cut: number,
  soft: number,
  joins: JoinLengths,
  lengths: SourceLengths,
): boolean {
  return heardPieces(table, cut - 1, cut + 1, joins, lengths)
    .flatMap(({ start, end, joinIn, joinOut }) => [
      ...(start === cut ? [joinIn] : []),
      ...(end === cut ? [joinOut] : []),
    ])
    .every((ramp) => ramp !== null && ramp.to - ramp.from >= soft);
}

/** Where pieces meet that are not crossfaded, in heard frames of all tracks. */
function hardCuts(sounding: Sounding, lengths: SourceLengths): number[] {
  const soft = softSeconds * sounding.rateHz;
  const cuts = new Set<number>();
  for (const { table } of tracksOf(sounding))
    for (let index = 1; index < table.pieces.length; index++) {
      const cut = table.startOf(index);
      if (!isSoft(table, cut, soft, sounding.joins, lengths)) cuts.add(cut);
    }
  return [...cuts].sort((a, b) => a - b);
}

/** Whether a channel jumps at `cut` frames from its beginning, against what it does around there. */
function jumps(samples: Float32Array, cut: number): boolean {
  let sum = 0;
  let largest = 0;
  for (let i = 1; i < samples.length; i++) {
    const jump = Math.abs(samples[i] - samples[i - 1]);
    sum += jump;
    if (Math.abs(i - cut) <= 2) largest = Math.max(largest, jump);
  }
  return largest > leastStep && largest > (timesUsual * (sum - largest)) / (samples.length - 2);
}

/**
 * Joins at which the wave jumps, on either side, which is heard as a click: around every cut that is not
 * crossfaded, the largest difference of neighbouring samples against the mean one of the 10 ms before and
 * after. Thresholds are *common practice*. In frames of heard time.
 */
export async function joinJumps(
  sounding: Sounding,
  part: PartRenderer,
  lengths: SourceLengths,
): Promise<Range[]> {
  const look = Math.round(lookSeconds * sounding.rateHz);
  const jumpsAt: Range[] = [];
  for (const cut of hardCuts(sounding, lengths)) {
    const from = Math.max(0, cut - look);
    const frames = Math.min(part.heardFrames, cut + look) - from;
    if (cut <= 0 || frames < look) continue;
    const sides = await part.mix('playing', from, frames);
    if (sides.some((samples) => jumps(samples, cut - from))) jumpsAt.push({ from: cut, to: cut });
  }
  return jumpsAt;
}
