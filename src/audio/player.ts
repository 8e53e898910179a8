import { playAt } from './cue';

/** Renders heard frames [from, from + frames): one array per channel. */
export type RenderChunk = (from: number, frames: number) => Promise<Float32Array<ArrayBuffer>[]>;

const chunkSeconds = 0.25;
const aheadSeconds = 1;
/** Time to render the first chunk before it has to sound. */
const leadSeconds = 0.06;

/** Plays heard audio from a frame on, chunk after chunk on the context's clock, without a seam. */
export class Player {
  private readonly output: GainNode;
  private readonly scheduled = new Set<AudioBufferSourceNode>();
  private startSeconds = 0;
  private nextFrame: number;
  private stopped = false;
  private played = false;
  /** Resolves when playing has ended, by itself or by `stop`. */
  readonly ended: Promise<void>;
  private end: () => void = () => undefined;

  constructor(
    private readonly context: AudioContext,
    private readonly range: { from: number; to: number },
    private readonly renderChunk: RenderChunk,
    private readonly onError: (error: unknown) => void,
    destination: AudioNode,
  ) {
    this.output = new GainNode(context);
    this.output.connect(destination);
    this.nextFrame = range.from;
    this.ended = new Promise((resolve) => (this.end = resolve));
    void this.run();
  }

  /** The heard frame that can be heard now. */
  get frame(): number {
    if (this.played) return this.range.to;
    if (this.startSeconds === 0) return this.range.from;
    const heardAt = this.context.currentTime - (this.context.outputLatency || 0);
    const frame = this.range.from + Math.floor((heardAt - this.startSeconds) * this.context.sampleRate);
    return Math.min(this.range.to, Math.max(this.range.from, frame));
  }

  stop(): void {
    if (this.stopped) return;
    this.stopped = true;
    const now = this.context.currentTime;
    // A few milliseconds down to silence, so that stopping does not click.
    this.output.gain.setTargetAtTime(0, now, 0.003);
    setTimeout(() => {
      for (const node of this.scheduled) node.stop();
      this.output.disconnect();
    }, 40);
    this.end();
  }

  private async run() {
    try {
      while (!this.stopped && this.nextFrame < this.range.to) {
        await this.scheduleNext();
        const ahead = this.secondsAt(this.nextFrame) - this.context.currentTime;
        if (ahead > aheadSeconds)
          await new Promise((resolve) => setTimeout(resolve, (ahead - aheadSeconds) * 1000));
      }
      const rest =
        this.secondsAt(this.range.to) - this.context.currentTime + (this.context.outputLatency || 0);
      if (!this.stopped) await new Promise((resolve) => setTimeout(resolve, Math.max(0, rest * 1000)));
      // The latency a browser tells changes while it plays; the end is the end all the same.
      if (!this.stopped) this.played = true;
    } catch (error) {
      this.onError(error);
    }
    this.stop();
  }

  private secondsAt(frame: number) {
    return this.startSeconds + (frame - this.range.from) / this.context.sampleRate;
  }

  private async scheduleNext() {
    const { sampleRate } = this.context;
    const frames = Math.min(Math.round(chunkSeconds * sampleRate), this.range.to - this.nextFrame);
    const samples = await this.renderChunk(this.nextFrame, frames);
    if (this.stopped) return;
    // The first chunk sets the clock; so does one that came too late, which then is heard late, not cut.
    const due = this.secondsAt(this.nextFrame);
    if (this.startSeconds === 0 || due < this.context.currentTime) {
      const startFrame = Math.ceil((this.context.currentTime + leadSeconds) * sampleRate);
      this.startSeconds = (startFrame - (this.nextFrame - this.range.from)) / sampleRate;
    }
    const node = playAt(
      this.context,
      this.output,
      samples,
      Math.round(this.secondsAt(this.nextFrame) * sampleRate),
    );
    if (node) {
      node.onended = () => this.scheduled.delete(node);
      this.scheduled.add(node);
    }
    this.nextFrame += frames;
  }
}
