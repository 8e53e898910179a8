import type { Measurement } from '@/core/loudness/measure';
import type { TimeRange } from '@/core/loudness/places';
import type { UnderSpeech } from '@/core/specs/underSpeech';
import type { LevelPlan } from '@/core/specs/levelPlan';
import type { Spec } from '@/core/specs/spec';
import type { Range } from '@/core/timeline/range';
import type { Sounding } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

/** What is heard of a part, as far as a worker needs it. */
export interface HeardPart {
  sounding: Sounding;
  sources: Pick<SourceRecord, 'id' | 'frames'>[];
  /** Of the file the part becomes. */
  channels: number;
}

export interface PartProof {
  measurement: Measurement;
  /** Joins at which the wave jumps, in seconds. */
  jumps: TimeRange[];
  /** What the part's ceiling takes off at most, dB. */
  reductionDb: number;
  /** How much had to be measured: less than the whole after an edit. */
  framesMeasured: number;
}

export interface PartPlan {
  plan: LevelPlan;
  /** The part measured with the plan carried out; null when there is none. */
  predicted: Measurement | null;
  /** What the ceiling takes off at most, dB. */
  reductionDb: number;
}

export type ProofJobs = {
  /** `partId` names the earlier measurement that may be used. */
  measure: { input: HeardPart & { partId: string }; output: PartProof };
  /** Plans gain and ceiling for a part, whatever it has now, and rehearses them. */
  plan: { input: HeardPart & { spec: Spec; mostReductionDb: number }; output: PartPlan };
  spectrum: { input: HeardPart; output: number[] };
  /** How far a bed lies under passages of speech, heard frames. */
  underSpeech: {
    input: {
      voices: Sounding;
      bed: Sounding;
      sources: HeardPart['sources'];
      passages: readonly Range[];
    };
    output: UnderSpeech[];
  };
  /** How loud some heard ranges of a part alone are, LUFS; null for silence. */
  rangesLoudness: {
    input: { sounding: Sounding; sources: HeardPart['sources']; ranges: readonly Range[] };
    output: number | null;
  };
  /** Drops what was kept of earlier measurements. */
  forget: { input: null; output: null };
};
