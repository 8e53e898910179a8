import type { SourceLengths } from './joins';

/** Where recorded audio comes from. */
export interface SourceReader {
  /** Length of a source in frames. */
  readonly lengthOf: SourceLengths;
  /**
   * Copies `frames` frames of one channel, starting at frame `from`, to `output` at `offset`. The range is
   * inside the source; audio that storage has lost is left as it was in `output` (silence).
   */
  read(
    source: string,
    channel: number,
    from: number,
    frames: number,
    output: Float32Array,
    offset: number,
  ): Promise<void>;
}
