import type { Loopback } from '@/core/recording/loopback';
import type { SoundCheck } from '@/core/recording/soundCheck';
import type { Sentence } from '@/core/speech/sentences';
import type { Piece } from '@/core/timeline/pieces';
import type { SourceRecord } from '@/storage/schema';

/** Channel 0 of a source, from its frame `from` on. */
export interface Stretch {
  source: string;
  from: number;
  frames: number;
}

export type AnalysisJobs = {
  /** Sentences on one track, struck passages included, in frames of sheet time inside `range`. */
  sentences: {
    input: {
      pieces: readonly Piece[];
      range: { from: number; to: number };
      sources: Pick<SourceRecord, 'id' | 'frames'>[];
      rateHz: number;
    };
    output: Sentence[];
  };
  /** A sound check from its three recordings, each `[source, from, frames]` of channel 0. */
  soundCheck: {
    input: { silent: Stretch; normal: Stretch; loudest: Stretch; rateHz: number };
    output: SoundCheck;
  };
  /** The round trip of a loopback check, from what was captured from the first frame played on. */
  loopback: { input: { captured: Stretch; rateHz: number }; output: Loopback | null };
};
