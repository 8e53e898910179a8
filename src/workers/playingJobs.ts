import type { Purpose } from '@/core/timeline/mixer';
import type { Sounding } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

export type PlayingJobs = {
  /**
   * Makes a sounding ready to be rendered under a name; the ones before it are forgotten, but for the last
   * few.
   */
  begin: {
    input: { name: string; sounding: Sounding; sources: Pick<SourceRecord, 'id' | 'frames'>[] };
    output: null;
  };
  /** Heard frames [from, from + frames) of a sounding that was begun, one array per channel. */
  render: {
    input: { name: string; purpose: Purpose; from: number; frames: number };
    output: Float32Array<ArrayBuffer>[];
  };
};
