import type { FarRecording } from '@/core/far/messages';
import type { SoundHealth } from '@/core/formats/health';
import type { BroadcastOrigin } from '@/core/formats/bext';
import type { FileMark } from '@/core/formats/fileMarks';
import type { Film } from '@/core/cues/film';
import type { TakeSummary } from '@/storage/schema';
import type { FoundPicture } from './filmFile';

/** What of a file's channels is taken: the mean of all, one of them, or the first two, each for itself. */
export const channelChoices = ['mean', 'left', 'right', 'both'] as const;
export type ChannelChoice = (typeof channelChoices)[number];

export interface FoundSound {
  kind: string;
  rateHz: number;
  channels: number;
  /** Null when only reading it all would tell. */
  seconds: number | null;
  marks: number;
  origin: BroadcastOrigin | null;
  /** Its moving picture; null for a file that is sound alone. Without sound it has 0 channels. */
  picture: FoundPicture | null;
}

export interface ImportedSound extends SoundHealth {
  frames: number;
  channels: number;
  /** The file's own rate. */
  rateHz: number;
  /** At the project's rate. */
  marks: FileMark[];
  summary: TakeSummary;
}

/** A recording from the other end of a line, with where its blocks stand here. */
export interface ArrivedRecording {
  readonly id: string;
  readonly recording: FarRecording;
}

export type ImportJobs = {
  /** What a file is, without reading it all. Throws when it is no sound file. */
  look: { input: { file: File }; output: FoundSound };
  /**
   * Reads a file into the blocks of a source that exists already, converted once to the project's rate. Of a
   * film without sound so many seconds of silence.
   */
  read: {
    input: { file: File; sourceId: string; rateHz: number; channels: ChannelChoice; silentSeconds?: number };
    output: ImportedSound;
  };
  /** Copies a film into storage beside the recording of its sound. */
  film: { input: { file: File; sourceId: string }; output: Film };
  /** Converts one channel of a source to another clock, into the blocks of a source that exists already. */
  reclock: {
    input: {
      source: { id: string; frames: number };
      channel: number;
      sourceId: string;
      clocks: { fromHz: number; toHz: number };
      rateHz: number;
    };
    output: { frames: number; summary: TakeSummary };
  };
  /**
   * Makes a source faster or slower at the same pitch, all its channels alike, into the blocks of a source
   * that exists already: frame n of it comes to stand at about n / `speed`.
   */
  stretch: {
    input: {
      source: { id: string; frames: number; channels: number };
      sourceId: string;
      speed: number;
      rateHz: number;
    };
    output: { frames: number; summary: TakeSummary };
  };
  /**
   * Lays what was recorded at the other end of a line over what came over it, as a take of its own: into the
   * blocks of a source that exists already.
   */
  layFar: {
    input: {
      take: { id: string; frames: number; handleFrames: number; channels: number; rateHz: number };
      /** The channel of the take in which the voice came. */
      channel: number;
      line: { startsAt: number; delaySeconds: number };
      /** The clock that the seconds of `line` are of. */
      life: string;
      arrived: readonly ArrivedRecording[];
      sourceId: string;
    };
    output: {
      frames: number;
      summary: TakeSummary;
      /** Frames of the take itself that are what was recorded there. */
      covered: number;
      /** Of each recording: at how many moments it was compared, and what came of it. */
      places: {
        moments: number;
        ppm: number;
        /** By how much the line's sound was later than was expected; null where it could not be compared. */
        lateSeconds: number | null;
        /** Frames that were recorded after the end of the take. */
        more: number;
      }[];
    };
  };
  /** Puts the recorded blocks of a closed take together (see storage/repack). */
  repack: { input: { sourceId: string }; output: null };
};
