import type { ChainStep } from '@/core/chain/chain';
import type { ChainWork } from '@/core/chain/chainWork';
import type { ChainPicture } from '@/core/chain/picture';
import type { RoomProfile } from '@/core/chain/roomProfile';
import type { Measurement } from '@/core/loudness/measure';
import type { Hum } from '@/core/recording/soundCheck';
import type { ToneRegion } from '@/core/timeline/pieces';
import type { Range } from '@/core/timeline/range';
import type { Sounding } from '@/core/timeline/sounding';
import type { SourceRecord } from '@/storage/schema';

/** A voice by itself: one track or the two sides of a pair, with its chain and without a level. */
export interface ChainedSound {
  sounding: Sounding;
  sources: Pick<SourceRecord, 'id' | 'frames'>[];
}

/** What a chain does to a voice, and what the voice measures before and after it. */
export interface MeasuredChain {
  work: ChainWork;
  recorded: Measurement;
  finished: Measurement;
}

/** What can be told of a room alone. */
export interface LearnedRoom {
  profile: RoomProfile;
  /** Of the bands of speech, dBFS. */
  roomDb: number[];
  hum: Hum | null;
}

export type ChainJobs = {
  /**
   * The voice that is looked at from now on; what has been made of its first steps stays where it is the
   * same.
   */
  begin: { input: ChainedSound; output: null };
  /** Heard frames [from, from + frames) of it, multiples of 256. */
  picture: { input: Range; output: ChainPicture };
  measure: { input: ChainedSound; output: MeasuredChain };
  /** How loud a heard range is as it was recorded and finished, LUFS; null for silence. */
  compare: {
    input: ChainedSound & { range: Range };
    output: { recorded: number | null; finished: number | null };
  };
  /**
   * Listens to a stretch of a recording in which nobody speaks, through the steps before the one it is
   * for.
   */
  learn: {
    input: {
      region: ToneRegion;
      before: readonly ChainStep[];
      rateHz: number;
      sources: ChainedSound['sources'];
    };
    output: LearnedRoom;
  };
  /** Long-term spectrum of a voice through its chain, in third octaves, dB. */
  spectrum: { input: ChainedSound; output: number[] };
  /** The same of a sound file, its channels together. */
  fileSpectrum: { input: { file: File }; output: number[] };
};
