import { decimal, say } from '@/texts/say';
import { readBlockMessage, mostBlockBytes } from '@/core/far/blockMessage';
import { readFromTalent, writeMessage, type FromStudio, type FromTalent } from '@/core/far/messages';
import { RateBound } from '@/core/base/rateBound';
import { StudioSide } from '@/core/far/studioSide';
import type { Line } from '@/net/peer';
import type { ArrivedRecording } from '@/workers/importJobs';
import { ArrivingBlocks, storedOf, waitingTakes } from './arriving';
import { audioClock } from './clock';
import { changePerson, personOf } from './far';
import { note } from './log';
import { unpatch } from './sound';

const beatMs = 200;
/** What a talent may send in a second: blocks come fast when a day's work is made up for. */
const mostTexts = 60;
const mostBlocks = 400;
/** So many things that nobody understands, and the line is closed. */
const mostRefused = 50;
/** Between the ears and the microphone of a talent, beside what the line takes. */
const deviceSeconds = 0.03;
const measureMs = 2000;

/** What of a line is done elsewhere. */
export interface CallerEvents {
  greet(caller: Caller): void;
  /** Pieces of a picture are wanted. */
  pull(caller: Caller, film: string, from: number): void;
}

/** So much of a picture may wait to be sent. */
const mostWaitingBytes = 1_500_000;

/**
 * One talent's line with what is behind it. It outlives lines: what has come stays, and a new line goes on
 * where the last one ended.
 */
export class Caller {
  private side: StudioSide | null = null;
  private line: Line | null = null;
  private beat: ReturnType<typeof setInterval> | undefined;
  private measure: ReturnType<typeof setInterval> | undefined;
  private readonly texts = new RateBound(mostTexts);
  private readonly bytes = new RateBound(mostBlocks);
  private refused = 0;
  private greeted = '';
  private earsSeconds = 0.05;
  readonly blocks: ArrivingBlocks;

  constructor(
    readonly key: string,
    public name: string,
    readonly seat: number,
    private readonly events: CallerEvents,
  ) {
    this.blocks = new ArrivingBlocks(key, name, {
      stored: (id, index) => this.side?.stored(id, index, performance.now()),
      done: (take) => this.side?.forget(take),
      progress: (take) => this.side?.progress(take) ?? null,
      measured: (seconds) => this.learn(seconds),
    });
  }

  get isOpen(): boolean {
    return this.line !== null;
  }

  rename(name: string): void {
    this.name = name;
    this.blocks.name = name;
  }

  /** A line has opened. */
  async connect(line: Line): Promise<void> {
    this.line?.close();
    this.line = line;
    this.refused = 0;
    this.offSeconds = 0;
    await this.ready();
    if (this.line !== line) return;
    this.side?.connect();
    changePerson(this.key, { state: 'open', trouble: '' });
    note(this.name, say`Line open.`);
    clearInterval(this.beat);
    clearInterval(this.measure);
    this.beat = setInterval(() => this.side?.beat(performance.now()), beatMs);
    this.measure = setInterval(() => void this.look(), measureMs);
    this.events.greet(this);
  }

  /** The line is down. */
  disconnect(line: Line): void {
    if (this.line !== line) return;
    this.line = null;
    clearInterval(this.beat);
    clearInterval(this.measure);
    this.side?.disconnect();
    unpatch(this.key);
    if (personOf(this.key)?.state !== 'refused') changePerson(this.key, { state: 'away' });
    const lost = personOf(this.key)?.lost ?? 0;
    note(this.name, say`Line down. ${decimal(100 * lost, 1)} % of its sound was lost.`);
  }

  close(reason: string): void {
    this.send({ kind: 'bye', reason });
    clearInterval(this.beat);
    clearInterval(this.measure);
    const { line } = this;
    // What was said last has to be on its way before the line ends.
    setTimeout(() => line?.close(), 200);
  }

  send(message: FromStudio): void {
    this.line?.sendText(writeMessage(message));
  }

  /** False where the line takes no more for now. */
  sendBytes(bytes: Uint8Array<ArrayBuffer>): boolean {
    if (!this.line || this.line.waitingBytes > mostWaitingBytes) return false;
    this.line.sendBytes(bytes);
    return true;
  }

  // — Takes —

  want(take: { id: string; name: string; from: number }): void {
    this.side?.want(take);
  }

  ended(id: string, to: number): void {
    this.side?.ended(id, to);
    this.blocks.look(id);
  }

  forget(id: string): void {
    this.side?.forget(id);
  }

  // — What comes —

  takeText(data: string): void {
    if (!this.texts.take(performance.now())) return this.refuse();
    const parsed = readFromTalent(data);
    if (!('message' in parsed)) return this.refuse();
    const clock = audioClock();
    if (clock) this.side?.receive(parsed.message, clock.seconds, performance.now());
  }

  takeBytes(data: Uint8Array<ArrayBuffer>): void {
    if (data.length > mostBlockBytes || !this.bytes.take(performance.now())) return this.refuse();
    try {
      this.side?.receiveBlock(readBlockMessage(data));
    } catch {
      this.refuse();
    }
  }

  private refuse() {
    if (++this.refused !== mostRefused) return;
    note(this.name, say`Line closed: too much came that could not be understood.`);
    changePerson(this.key, {
      trouble: say`Too much came over this line that nobody understands; it was closed.`,
    });
    this.line?.close();
  }

  // — Inside —

  /** What has come another way: as a file. */
  async adopt(read: readonly ArrivedRecording[]): Promise<void> {
    await this.ready();
    await this.blocks.adopt(read);
    for (const { recording } of read) this.side?.adopt(recording);
  }

  /** Reads what is on disk of this talent's recordings; once in the life of an audio context. */
  private life = '';
  async ready(): Promise<void> {
    const clock = audioClock();
    if (!clock || this.life === clock.life) return;
    this.life = clock.life;
    const stored = await storedOf(this.key);
    const takes = waitingTakes(this.key);
    this.blocks.known(stored.map(({ source }) => source));
    this.side = new StudioSide(
      clock.life,
      {
        send: (message) => this.send(message),
        store: (block, recording) => this.blocks.store(block, recording),
        note: (recording) => this.blocks.note(recording),
        whole: (recording) => this.blocks.look(recording.take),
        hear: (message) => this.hear(message),
      },
      stored,
      takes,
    );
    for (const { id } of takes) this.blocks.look(id);
  }

  private hear(
    message: Extract<FromTalent, { kind: 'hello' | 'level' | 'held' | 'pull' | 'trouble' | 'bye' }>,
  ) {
    switch (message.kind) {
      case 'hello': {
        const consent = new Date(message.consentAt).toISOString();
        changePerson(this.key, { hello: message });
        // Said anew with each line.
        if (this.greeted === JSON.stringify(message)) break;
        this.greeted = JSON.stringify(message);
        note(
          this.name,
          say`${message.input}, ${message.rateHz} Hz${message.granted && `, ${message.granted}`}. Consent to be recorded given at ${consent}.`,
        );
        break;
      }
      case 'level':
        changePerson(this.key, { level: message });
        break;
      case 'held':
        if (message.seconds !== null) this.earsSeconds = message.seconds;
        break;
      case 'pull':
        this.events.pull(this, message.film, message.from);
        break;
      case 'trouble':
        changePerson(this.key, { trouble: message.text });
        note(this.name, message.text);
        break;
      case 'bye':
        changePerson(this.key, { trouble: message.reason });
        note(this.name, say`Left. ${message.reason}`.trim());
        this.line?.close();
    }
  }

  /** How long the sound is on its way, as far as the browser can tell. */
  private async look() {
    const { line } = this;
    const figures = await line?.measure().catch(() => null);
    if (!figures || this.line !== line) return;
    const half = (figures.roundTripSeconds ?? 0) / 2;
    const inward = half + (figures.bufferSeconds ?? 0.05) + deviceSeconds;
    changePerson(this.key, {
      delaySeconds: Math.min(2, this.offSeconds + inward),
      outDelaySeconds: Math.min(2, half + this.earsSeconds + deviceSeconds),
      lost: figures.lost,
    });
  }

  /** By how much the sound is later than can be told: found by the takes that were compared. */
  private offSeconds = 0;
  private learn(seconds: number) {
    this.offSeconds = Math.max(-0.2, Math.min(0.5, this.offSeconds + seconds));
  }
}
