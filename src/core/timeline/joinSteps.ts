import type { Range } from './edits';
import { heardPieces, type JoinLengths, type SourceLengths } from './joins';
import type { PartRenderer } from './output';
import { cutsOf } from './joints';
import type { PieceTable } from './pieces';

/** A jump counts as a step when it is this many times what the sound around it does from one sample to the next, and over −46 dBFS. */
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

/**
 * Joins at which the wave jumps, which is heard as a click: around every cut that is not crossfaded, the largest difference of neighbouring samples against the mean one of the 10 ms
 * before and after. Thresholds are *common practice*. In frames of heard time.
 */
export async function joinSteps(
  tables: readonly PieceTable[],
  part: PartRenderer,
  rateHz: number,
  joins: JoinLengths,
  lengths: SourceLengths,
): Promise<Range[]> {
  const look = Math.round(lookSeconds * rateHz);
  const soft = softSeconds * rateHz;
  const cuts = new Set(
    tables.flatMap((table) =>
      cutsOf(table)
        .map(({ to }) => table.sheetToHeard(to))
        .filter((cut) => !isSoft(table, cut, soft, joins, lengths)),
    ),
  );
  const steps: Range[] = [];
  for (const cut of [...cuts].sort((a, b) => a - b)) {
    const from = Math.max(0, cut - look);
    const frames = Math.min(part.heardFrames, cut + look) - from;
    if (cut <= 0 || frames < look) continue;
    const [samples] = await part.sides(from, frames);
    let sum = 0;
    let largest = 0;
    for (let i = 1; i < samples.length; i++) {
      const jump = Math.abs(samples[i] - samples[i - 1]);
      sum += jump;
      if (Math.abs(from + i - cut) <= 2) largest = Math.max(largest, jump);
    }
    if (largest > leastStep && largest > (timesUsual * (sum - largest)) / (samples.length - 2))
      steps.push({ from: cut, to: cut });
  }
  return steps;
}
