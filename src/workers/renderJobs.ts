import type { SoundFileSettings } from '@/core/formats/soundFile';
import type { Sounding } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

export interface RenderInput {
  sounding: Sounding;
  sources: Pick<SourceRecord, 'id' | 'frames'>[];
  /** Heard frames [from, to). */
  range: { from: number; to: number };
  chunkFrames: number;
  /** Of the file it is for: its rate and channels. */
  settings: SoundFileSettings;
}

/** What is heard of a part, at the rate of a file, one chunk after another. */
export type RenderJobs = {
  begin: { input: RenderInput; output: null };
  /** The next chunk, one array per channel; null after the last. */
  next: { input: null; output: Float32Array[] | null };
};
