import type { ErrorCode } from '@/core/base/errors';
import type { RingMemory } from '@/core/base/ring';
import type { Finding, Signal } from '@/core/recording/levelWatch';
import type { SourceRecord, TakeSummary } from '@/storage/schema';

/** Frames are on the audio context's clock. Several takes can overlap: one still waits for its handle while the next has begun. */
export type ToRecorder =
  | { type: 'attach'; ring: RingMemory }
  | { type: 'detach' }
  /**
   * The take begins at `atFrame`, which may lie ahead; what was captured up to `handleFrames` before it is stored with it. `inputs` are the
   * channels of the ring that become the source's channels.
   */
  | {
      type: 'start';
      source: Omit<SourceRecord, 'frames' | 'handleFrames'>;
      inputs: number[];
      atFrame: number;
      handleFrames: number;
    }
  /** The take ends at `atFrame`, which may lie ahead; capture goes on for `handleFrames`, or ends at once where nothing comes any more. */
  | { type: 'stop'; sourceId: string; atFrame: number; handleFrames: number };

/** What a take has come to. `frames` are those on disk; the take itself is [handleFrames, handleFrames + length). */
export interface TakeResult {
  sourceId: string;
  frames: number;
  handleFrames: number;
  length: number;
  overrunFrames: number;
  summary: TakeSummary;
}

export type FromRecorder =
  /** Its first frame has been captured. */
  | { type: 'started'; sourceId: string; handleFrames: number }
  /** Peaks of the take from its own beginning on, one array per channel, each peak `peakFrames` long, since the last message. */
  | { type: 'peaks'; sourceId: string; peaks: Float32Array[]; frames: number; overrunFrames: number }
  /** Claps, clipped and faint passages, in frames of the take. */
  | { type: 'found'; sourceId: string; findings: Finding[] }
  /** What comes from a channel of the source has changed: from sound to silence, or back. */
  | { type: 'signal'; sourceId: string; channel: number; signal: Signal }
  | { type: 'finished'; take: TakeResult }
  /** Recording ended by itself; what `take` says is on disk. */
  | { type: 'failed'; take: TakeResult; code: ErrorCode; message: string };
