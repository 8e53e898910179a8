import type { ErrorCode } from '@/core/base/errors';
import type { RingMemory } from '@/core/base/ring';
import type { SourceRecord } from '@/storage/schema';

/** Frames are on the audio context's clock. */
export type ToRecorder =
  | { type: 'attach'; ring: RingMemory }
  | { type: 'detach' }
  /** The take begins at `atFrame`; what was captured up to `handleFrames` before it is stored with it. */
  | {
      type: 'start';
      source: Omit<SourceRecord, 'frames' | 'handleFrames'>;
      atFrame: number;
      handleFrames: number;
    }
  /** The take ends at `atFrame`; capture goes on for `handleFrames`, or ends at once where nothing comes any more. */
  | { type: 'stop'; atFrame: number; handleFrames: number };

/** What a take has come to. `frames` are those on disk; the take itself is [handleFrames, handleFrames + length). */
export interface TakeResult {
  sourceId: string;
  frames: number;
  handleFrames: number;
  length: number;
  overrunFrames: number;
}

export type FromRecorder =
  | { type: 'started'; sourceId: string; handleFrames: number }
  /** Peaks of the take from its own beginning on, each `peakFrames` long, since the last message. */
  | { type: 'peaks'; sourceId: string; peaks: Float32Array; frames: number; overrunFrames: number }
  | { type: 'finished'; take: TakeResult }
  /** Recording ended by itself; what `take` says is on disk. */
  | { type: 'failed'; take: TakeResult; code: ErrorCode; message: string };
