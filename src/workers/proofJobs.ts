import type { Chain } from '@/core/chain/chain';
import type { Chains } from '@/core/specs/chainPlan';
import type { Measurement } from '@/core/loudness/measure';
import type { TimeRange } from '@/core/loudness/places';
import type { UnderSpeech } from '@/core/specs/underSpeech';
import type { LevelPlan } from '@/core/specs/levelPlan';
import type { Spec } from '@/core/specs/spec';
import type { ToneRegion } from '@/core/timeline/pieces';
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
  /** The chains of voices that are part of the plan, by track; null where it needs none. */
  chains: Chains | null;
  /** What they do and cost, in words. */
  cost: string;
}

/** A voice whose chain a plan may change. */
export interface VoiceToPlan {
  id: string;
  /** Its place among the tracks of the sounding; both places of a pair. */
  places: readonly number[];
  chain: Chain;
  /** Where its room alone was recorded; null where that is not known. */
  tone: ToneRegion | null;
}

export type ProofJobs = {
  /** `partId` names the earlier measurement that may be used. */
  measure: { input: HeardPart & { partId: string }; output: PartProof };
  /**
   * Plans gain and ceiling for a part, whatever it has now, with chains where they are not enough;
   * rehearsed.
   */
  plan: {
    input: HeardPart & { spec: Spec; mostReductionDb: number; voices: readonly VoiceToPlan[] };
    output: PartPlan;
  };
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
