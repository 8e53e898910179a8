import type { SimulatedOptions, ToSimulated } from './simulatedProtocol';

/**
 * A stand-in for a microphone: reads out audio it was given, from an exact frame on, and hears what is played
 * (its input) as a microphone in the room would, all of it later by a fixed number of frames.
 */
class SimulatedProcessor extends AudioWorkletProcessor {
  private readonly reading: Float32Array[];
  private readonly room: SimulatedOptions['room'];
  private readonly delay: number;
  /** The last frames heard, as a ring. */
  private readonly heard: Float32Array;
  private readAt = Infinity;
  private place = 0;
  private restAt = Infinity;
  private open = true;

  constructor(options: AudioWorkletNodeOptions) {
    super();
    const { reading, room, delayFrames } = options.processorOptions as SimulatedOptions;
    this.reading = reading;
    this.room = room;
    this.delay = delayFrames;
    this.heard = new Float32Array(2 ** Math.ceil(Math.log2(delayFrames + 256)));
    this.port.onmessage = ({ data }: MessageEvent<ToSimulated>) => this.obey(data);
  }

  private obey(message: ToSimulated) {
    switch (message.type) {
      case 'read':
        this.readAt = message.atFrame;
        this.place = message.place;
        this.restAt = Infinity;
        break;
      case 'rest':
        this.restAt = Math.min(this.restAt, message.atFrame);
        break;
      case 'close':
        this.open = false;
        break;
    }
  }

  override process([input]: Float32Array[][], [output]: Float32Array[][]): boolean {
    const frames = output[0].length;
    const mask = this.heard.length - 1;
    const playing = input?.[0];
    for (let i = 0; i < frames; i++) this.heard[(currentFrame + i) & mask] = playing ? playing[i] : 0;
    output.forEach((channel, index) => {
      const reading = this.reading[Math.min(index, this.reading.length - 1)];
      for (let i = 0; i < frames; i++) {
        const frame = currentFrame + i - this.delay;
        channel[i] = this.said(reading, frame) + this.heard[frame & mask];
      }
    });
    return this.open;
  }

  private said(reading: Float32Array, frame: number): number {
    if (frame >= this.readAt && frame < this.restAt) return reading[this.place + frame - this.readAt] ?? 0;
    if (!this.room) return 0;
    const { from, to } = this.room;
    const length = to - from;
    return reading[from + (((frame % length) + length) % length)];
  }
}

registerProcessor('parola-simulated', SimulatedProcessor);
