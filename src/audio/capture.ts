import { createRing, type RingMemory } from '@/core/base/ring';

/** The ring holds at least this long: that is how long storage may stall without losing a sample. */
const ringSeconds = 20;

/**
 * The capture worklet with its ring: every channel of whatever is connected to `node` is captured from now
 * on.
 */
export class Capture {
  private constructor(
    readonly node: AudioWorkletNode,
    readonly ring: RingMemory,
  ) {}

  static create(context: AudioContext, channels: number): Capture {
    const ring = createRing(channels, ringSeconds * context.sampleRate);
    const node = new AudioWorkletNode(context, 'parola-capture', {
      numberOfInputs: 1,
      numberOfOutputs: 0,
      channelCount: channels,
      // Inputs of an interface are not a surround mix: nothing is mixed up or down.
      channelCountMode: 'explicit',
      channelInterpretation: 'discrete',
      processorOptions: { ring },
    });
    return new Capture(node, ring);
  }

  /** Told once when the browser ends the worklet by itself. */
  onLost(handler: () => void): void {
    this.node.addEventListener('processorerror', handler, { once: true });
  }

  close(): void {
    this.node.port.postMessage('close');
    this.node.disconnect();
  }
}

/** Loads the worklets a context needs. */
export async function loadWorklets(context: AudioContext): Promise<void> {
  await Promise.all(
    ['capture', 'simulated'].map((name) => context.audioWorklet.addModule(`/worklets/${name}.worklet.js`)),
  );
}
