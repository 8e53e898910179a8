import type { ErrorCode } from '@/core/base/errors';
import type { RingMemory } from '@/core/base/ring';
import type { Finding, Signal } from '@/core/recording/levelWatch';
import type { SourceRecord, TakeSummary } from '@/storage/schema';

/**
 * A take begins at `atFrame`, which may lie ahead; what was captured up to `handleFrames` before it is stored
 * with it. `channels` are those of the input that become the source's channels. One that has not begun
 * `waitMs` after it was asked for has failed.
 */
export interface RecordingStart {
  source: Omit<SourceRecord, 'frames' | 'handleFrames'>;
  input: string;
  channels: number[];
  atFrame: number;
  handleFrames: number;
  waitMs: number;
}

/**
 * Frames are on the audio context's clock. Several takes can overlap: one still waits for its handle while
 * the next has begun.
 */
export type ToRecorder =
  | { type: 'attach'; input: string; ring: RingMemory }
  /** What the ring holds is read to its end; takes of this input end there. */
  | { type: 'detach'; input: string }
  | ({ type: 'start' } & RecordingStart)
  /**
   * The take ends at `atFrame`, which may lie ahead; capture goes on for `handleFrames`, or ends at once
   * where nothing comes any more.
   */
  | { type: 'stop'; sourceId: string; atFrame: number; handleFrames: number };

/**
 * What a take has come to. `frames` are those on disk; the take itself is [handleFrames, handleFrames +
 * length).
 */
export interface TakeResult {
  sourceId: string;
  frames: number;
  handleFrames: number;
  length: number;
  overrunFrames: number;
  summary: TakeSummary;
}

export type FromRecorder =
  /** Said while anything is being recorded: a recorder that falls silent has died. */
  | { type: 'alive' }
  /** Its first frame has been captured. */
  | { type: 'started'; sourceId: string; handleFrames: number }
  /**
   * Peaks of the take from its own beginning on, one array per channel, each peak `peakFrames` long, since
   * the last message. `stored` counts all frames that are on disk, handles included.
   */
  | {
      type: 'peaks';
      sourceId: string;
      peaks: Float32Array[];
      frames: number;
      stored: number;
      overrunFrames: number;
    }
  /** Claps, clipped and faint passages, in frames of the take. */
  | { type: 'found'; sourceId: string; findings: Finding[] }
  /** What comes from a channel of the source has changed: from sound to silence, or back. */
  | { type: 'signal'; sourceId: string; channel: number; signal: Signal }
  | { type: 'finished'; take: TakeResult }
  /** Recording ended by itself; what `take` says is on disk. */
  | { type: 'failed'; take: TakeResult; code: ErrorCode; message: string };
