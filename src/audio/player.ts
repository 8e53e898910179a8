import { TimeStretch } from '@/core/dsp/timeStretch';
import { contextFrame } from './contextFrame';
import { playAt } from './playAt';

/** Renders heard frames [from, from + frames): one array per channel. */
export type RenderChunk = (from: number, frames: number) => Promise<Float32Array<ArrayBuffer>[]>;

const chunkSeconds = 0.25;
/** Rendered and handed to the context so far ahead: a page that is busy for less is not heard. */
const aheadSeconds = 2;
/** Time to render the first chunk before it has to sound. */
const leadSeconds = 0.06;
/** From one sound to another while it plays: when it is heard, and over how long. */
const changeLeadSeconds = 0.05;
/**
 * Where rendering took longer than that it is tried again for a moment from then: what was made is known, so
 * that it takes less. From the third time on later and later.
 */
const changeLeads = [1, 1, 3, 9, 27];
const changeFadeSeconds = 0.02;

export interface PlayOptions {
  /** 0.75 to 2 times as fast, at the same pitch. */
  speed?: number;
  /** Begins again at the start of the range until it is stopped. */
  loop?: boolean;
  /**
   * Frame of the context at which the range begins. What is rendered too late for its time falls silent then:
   * nothing shifts.
   */
  atFrame?: number;
}

/**
 * Plays heard audio from a frame on, chunk after chunk on the context's clock, without a seam. Faster or
 * slower it counts what comes out of the stretcher; positions told are always heard frames of the range.
 */
export class Player {
  private readonly speed: number;
  private readonly loop: boolean;
  private readonly inStep: boolean;
  private stretch: TimeStretch | null = null;
  /** Frames handed to the context so far. */
  private played = 0;
  private output: GainNode;
  private readonly scheduled = new Set<AudioBufferSourceNode>();
  private startSeconds = 0;
  /** Heard frame to render next; counts on beyond the end in a loop. */
  private nextFrame: number;
  private stopped = false;
  /** How often the sound was changed: of several changes at once the last one counts. */
  private changes = 0;
  /** A change on its way: what is further ahead waits for it. */
  private changing: Promise<void> | null = null;
  /** Ends the wait for the next chunk. */
  private wake: () => void = () => undefined;
  private atEnd = false;
  /** Resolves when playing has ended, by itself or by `stop`. */
  readonly ended: Promise<void>;
  private end: () => void = () => undefined;

  constructor(
    private readonly context: AudioContext,
    private readonly range: { from: number; to: number },
    private renderChunk: RenderChunk,
    private readonly onError: (error: unknown) => void,
    private readonly destination: AudioNode,
    { speed = 1, loop = false, atFrame }: PlayOptions = {},
  ) {
    this.speed = speed;
    this.loop = loop;
    this.inStep = atFrame !== undefined;
    if (atFrame !== undefined) this.startSeconds = atFrame / context.sampleRate;
    this.output = new GainNode(context);
    this.output.connect(destination);
    this.nextFrame = range.from;
    this.ended = new Promise((resolve) => (this.end = resolve));
    void this.run();
  }

  /** The heard frame that can be heard now. */
  get frame(): number {
    if (this.atEnd) return this.range.to;
    if (this.startSeconds === 0) return this.range.from;
    const heardAt = this.context.currentTime - (this.context.outputLatency || 0);
    const passed = Math.max(
      0,
      Math.floor((heardAt - this.startSeconds) * this.context.sampleRate * this.speed),
    );
    const length = this.range.to - this.range.from;
    return this.range.from + (this.loop ? passed % length : Math.min(length, passed));
  }

  /** Seconds until the first frame is heard: 0 once it is, Infinity while it is being prepared. */
  get waitSeconds(): number {
    if (this.startSeconds === 0) return Infinity;
    const heardAt = this.context.currentTime - (this.context.outputLatency || 0);
    return Math.max(0, this.startSeconds - heardAt);
  }

  /**
   * Goes on with other audio of the same length, in a moment and without a click; what was rendered ahead of
   * the old one is not heard. A stretcher cannot go back: at another speed it is heard a little later.
   */
  async change(renderChunk: RenderChunk): Promise<void> {
    const change = this.tryChange(renderChunk, 0);
    const settled = change.catch(() => undefined);
    this.changing = settled;
    await change.finally(() => {
      if (this.changing === settled) this.changing = null;
    });
  }

  private async tryChange(renderChunk: RenderChunk, tries: number): Promise<void> {
    const turn = ++this.changes;
    const lead = changeLeads[tries] * changeLeadSeconds;
    this.renderChunk = renderChunk;
    const { sampleRate } = this.context;
    const { from, to } = this.range;
    const first = Math.max(0, Math.round((this.context.currentTime + lead - this.startSeconds) * sampleRate));
    const nothingAhead = this.startSeconds === 0 || first >= this.played;
    if (this.stopped || this.speed !== 1 || nothingAhead) return;
    const at = from + (first % (to - from));
    const frames = Math.min(Math.round(chunkSeconds * sampleRate), to - at);
    const samples = await renderChunk(at, frames);
    if (this.stopped || turn !== this.changes) return;
    const due = this.secondsAt(first);
    if (due < this.context.currentTime)
      return tries + 1 < changeLeads.length ? this.tryChange(renderChunk, tries + 1) : undefined;
    this.fadeOver(due);
    this.played = first;
    this.nextFrame = from + first + frames;
    this.schedule(samples);
    this.wake();
  }

  /** What is scheduled fades out at a time of the context, and what will be fades in. */
  private fadeOver(due: number): void {
    const old = { output: this.output, nodes: [...this.scheduled] };
    this.output = new GainNode(this.context, { gain: 0 });
    this.output.connect(this.destination);
    const end = due + changeFadeSeconds;
    this.output.gain.setValueAtTime(0, due).linearRampToValueAtTime(1, end);
    old.output.gain.setValueAtTime(1, due).linearRampToValueAtTime(0, end);
    setTimeout(
      () => {
        for (const node of old.nodes) node.stop();
        old.output.disconnect();
      },
      (end - this.context.currentTime) * 1000 + 50,
    );
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
      while (!this.stopped && !this.atEnd) {
        if (this.loop || this.nextFrame < this.range.to) {
          if (this.changing && this.startSeconds !== 0) await this.changing;
          await this.scheduleNext();
          await this.wait(this.secondsAt(this.played) - this.context.currentTime - aheadSeconds);
          continue;
        }
        if (this.stretch) this.schedule(this.stretch.flush());
        this.stretch = null;
        const latency = this.context.outputLatency || 0;
        await this.wait(this.secondsAt(this.played) - this.context.currentTime + latency);
        // The latency a browser tells changes while it plays; the end is the end all the same.
        if (!this.stopped && this.nextFrame >= this.range.to) this.atEnd = true;
      }
    } catch (error) {
      this.onError(error);
    }
    this.stop();
  }

  /** Waits, or until the sound was changed. */
  private async wait(seconds: number): Promise<void> {
    if (seconds <= 0) return;
    await new Promise<void>((resolve) => {
      this.wake = resolve;
      setTimeout(resolve, seconds * 1000);
    });
  }

  private secondsAt(played: number) {
    return this.startSeconds + played / this.context.sampleRate;
  }

  private async scheduleNext() {
    const { sampleRate } = this.context;
    const { from, to } = this.range;
    const at = from + ((this.nextFrame - from) % (to - from));
    const frames = Math.min(Math.round(chunkSeconds * sampleRate * this.speed), to - at);
    const turn = this.changes;
    if (this.inStep && this.secondsAt(this.played + frames) < this.context.currentTime) {
      this.nextFrame += frames;
      this.played += frames;
      return;
    }
    const samples = await this.renderChunk(at, frames);
    // Another sound has taken its place meanwhile.
    if (this.stopped || turn !== this.changes) return;
    this.nextFrame += frames;
    if (this.speed === 1) return this.schedule(samples);
    this.stretch ??= new TimeStretch(sampleRate, samples.length, this.speed);
    this.schedule(this.stretch.process(samples));
  }

  private schedule(samples: Float32Array<ArrayBuffer>[]) {
    const { sampleRate } = this.context;
    // The first chunk sets the clock; so does one that came too late, which then is heard late, not cut.
    const due = this.secondsAt(this.played);
    const late = due < this.context.currentTime;
    if (late && this.inStep) {
      this.played += samples[0].length;
      return;
    }
    if (this.startSeconds === 0 || late) {
      const startFrame = contextFrame(this.context, leadSeconds);
      this.startSeconds = (startFrame - this.played) / sampleRate;
    }
    const node = playAt(
      this.context,
      this.output,
      samples,
      Math.round(this.secondsAt(this.played) * sampleRate),
    );
    if (node) {
      node.onended = () => this.scheduled.delete(node);
      this.scheduled.add(node);
    }
    this.played += samples[0].length;
  }
}
