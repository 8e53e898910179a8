import type { Measurement } from '@/core/loudness/measure';
import type { StoredSound } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

export type ProofJobs = {
  measure: {
    input: {
      tracks: StoredSound[];
      sources: Pick<SourceRecord, 'id' | 'frames'>[];
      rateHz: number;
      joinFrames: number;
    };
    output: Measurement;
  };
};
