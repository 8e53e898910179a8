import type { Measurement } from '@/core/loudness/measure';
import type { JoinLengths } from '@/core/timeline/joins';
import type { StoredSounding } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

export type ProofJobs = {
  measure: {
    input: {
      sounding: StoredSounding;
      sources: Pick<SourceRecord, 'id' | 'frames'>[];
      rateHz: number;
      joins: JoinLengths;
    };
    output: Measurement;
  };
};
