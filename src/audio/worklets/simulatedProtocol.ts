/** What the simulated device is made of; frames are of the context's rate. */
export interface SimulatedOptions {
  /** What it reads, one array per channel. */
  reading: Float32Array[];
  /** The stretch of the reading that is looped while nobody reads; null for silence. */
  room: { from: number; to: number } | null;
  /** Everything it hears or reads arrives this much later. */
  delayFrames: number;
}

/**
 * Times are context frames as the reader lives them: what is read at `atFrame` arrives `delayFrames` after
 * it.
 */
export type ToSimulated =
  { type: 'read'; atFrame: number; place: number } | { type: 'rest'; atFrame: number } | { type: 'close' };
