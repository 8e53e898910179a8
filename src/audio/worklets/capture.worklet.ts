import { RingWriter, type RingMemory } from '@/core/base/ring';

/**
 * Moves what arrives from the input into the ring, one render quantum at a time. Nothing here waits,
 * allocates or sends messages; the recorder worker and the level columns read the shared memory when they
 * like.
 */
class CaptureProcessor extends AudioWorkletProcessor {
  private readonly ring: RingWriter;
  private expected = -1;
  private captured = 0;
  private open = true;
  private readonly silence = [new Float32Array(128)];

  constructor(options: AudioWorkletNodeOptions) {
    super();
    this.ring = new RingWriter((options.processorOptions as { ring: RingMemory }).ring);
    this.port.onmessage = () => (this.open = false);
  }

  override process([input]: Float32Array[][]): boolean {
    const audio = input && input.length > 0 ? input : this.silence;
    const frames = audio[0].length;
    // The clock can jump, once after the context starts and when the device stalls: positions are told anew.
    if (currentFrame !== this.expected) this.ring.setStartFrame(currentFrame - this.captured);
    this.expected = currentFrame + frames;
    if (this.ring.write(audio, frames)) this.captured += frames;
    else this.expected = -1;
    return this.open;
  }
}

registerProcessor('parola-capture', CaptureProcessor);
