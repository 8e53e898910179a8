import type { Measurement } from '@/core/loudness/measure';
import type { JoinLengths } from '@/core/timeline/joins';
import type { StoredSound } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

export type ProofJobs = {
  measure: {
    input: {
      tracks: StoredSound[];
      sources: Pick<SourceRecord, 'id' | 'frames'>[];
      rateHz: number;
      joins: JoinLengths;
    };
    output: Measurement;
  };
};
