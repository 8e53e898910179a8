import type { Measurement } from '@/core/loudness/measure';
import type { Piece } from '@/core/timeline/pieces';
import type { SourceRecord } from '@/storage/schema';

export type ProofJobs = {
  measure: {
    input: {
      tracks: (readonly Piece[])[];
      sources: Pick<SourceRecord, 'id' | 'frames'>[];
      rateHz: number;
      joinFrames: number;
    };
    output: Measurement;
  };
};
