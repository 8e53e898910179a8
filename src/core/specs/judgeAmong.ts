import type { Measurement } from '../loudness/measure';
import { differencesOf, lookAtDifferences, lookOver, type Look } from './looks';
import type { Spec } from './spec';
import { judge, type Judged, type Verdict } from './verdicts';

export interface Judgement {
  judged: Judged;
  verdicts: Verdict[];
  looks: Look[];
}

interface Delivered {
  /** The size of the file, real or predicted. */
  bytes: number;
  /** What it is delivered with, itself included. */
  all: readonly Measurement[];
  /** Two sides that are the same are told of. */
  wantsStereo?: boolean;
}

/** A part or a file against a spec, and against what it is delivered with. */
export function judgeAmong(
  spec: Spec,
  measurement: Measurement,
  { bytes, all, wantsStereo }: Delivered,
): Judgement {
  const differences = differencesOf(measurement, all);
  const judged: Judged = {
    ...measurement,
    fileMegabytes: bytes / 1e6,
    levelSpreadDb: Math.abs(differences.speechDb),
    roomSpreadDb: Math.abs(differences.roomDb),
  };
  return {
    judged,
    verdicts: judge(spec, judged),
    looks: [...lookOver(measurement, wantsStereo), ...lookAtDifferences(differences)],
  };
}
