import { createRing, RingLevels, type RingMemory } from '@/core/base/ring';

/** The ring holds at least this long: that is how long storage may stall without losing a sample. */
const ringSeconds = 20;

/** The capture worklet with its ring: whatever is connected to `node` is captured from now on. */
export class Capture {
  readonly levels: RingLevels;

  private constructor(
    readonly node: AudioWorkletNode,
    readonly ring: RingMemory,
  ) {
    this.levels = new RingLevels(ring);
  }

  static async create(context: AudioContext): Promise<Capture> {
    await context.audioWorklet.addModule('/worklets/capture.worklet.js');
    const ring = createRing(1, ringSeconds * context.sampleRate);
    const node = new AudioWorkletNode(context, 'parola-capture', {
      numberOfInputs: 1,
      numberOfOutputs: 0,
      channelCount: 2,
      channelCountMode: 'max',
      processorOptions: { ring },
    });
    return new Capture(node, ring);
  }
}
