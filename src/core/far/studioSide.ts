import { say } from '../../texts/say';
import { blockFrames } from '../base/audio';
import type { BlockMessage } from './blockMessage';
import {
  lineVersion,
  mostTakes,
  type FarRecording,
  type FromStudio,
  type FromTalent,
  type WantedTake,
} from './messages';
import { BlocksHere } from './transfer';

/** What the studio's side has done for it. */
export interface StudioPorts {
  send(message: FromStudio): void;
  /** Keeps a block on disk; answered by `stored`, or by nothing: then it comes again. */
  store(block: BlockMessage, recording: FarRecording): void;
  /** A recording has been announced, or more is known of it; to be kept, it is all that a later life has. */
  note(recording: FarRecording): void;
  /** All of a recording is on disk. Told once in a life. */
  whole(recording: FarRecording): void;
  /** Whatever else the talent says. */
  hear(message: Extract<FromTalent, { kind: 'hello' | 'level' | 'held' | 'pull' | 'trouble' | 'bye' }>): void;
}

interface Arriving {
  recording: FarRecording;
  readonly here: BlocksHere;
  isWhole: boolean;
}

const blocksOf = ({ frames }: FarRecording) => Math.ceil(frames / blockFrames);
const sayMs = 1000;
/** What has come is acknowledged no more often. */
const ackMs = 150;

/**
 * The studio's end of the line to one talent: which takes are wanted, and what of them has come. Like the
 * other end it says what it wants and has until it is answered, and is made anew from what stands on disk.
 */
export class StudioSide {
  private readonly takes = new Map<string, WantedTake>();
  private readonly arriving = new Map<string, Arriving>();
  private readonly unsaid = new Set<string>();
  private connected = false;
  private saidMs = -Infinity;
  private ackedMs = -Infinity;

  /** `stored` are recordings of earlier lives with the blocks on disk, `takes` those that are not whole. */
  constructor(
    private readonly life: string,
    private readonly ports: StudioPorts,
    stored: readonly { recording: FarRecording; blocks: Iterable<number> }[] = [],
    takes: readonly WantedTake[] = [],
  ) {
    for (const take of takes) this.takes.set(take.id, take);
    for (const { recording, blocks } of stored) {
      const here = new BlocksHere(blocks);
      const isWhole = recording.closed && here.count >= blocksOf(recording);
      this.arriving.set(recording.id, { recording, here, isWhole });
    }
  }

  connect(): void {
    this.connected = true;
    this.saidMs = -Infinity;
    for (const id of this.arriving.keys()) this.unsaid.add(id);
  }

  disconnect(): void {
    this.connected = false;
  }

  /**
   * A take begins at a second of the studio's clock; more than `mostTakes` unfinished ones are not asked for.
   */
  want(take: Omit<WantedTake, 'life' | 'to'>): void {
    this.takes.set(take.id, { ...take, life: this.life, to: null });
    this.sayTakes();
  }

  ended(id: string, to: number): void {
    const take = this.takes.get(id);
    if (!take) return;
    this.takes.set(id, { ...take, to });
    this.sayTakes();
  }

  /** The take has what it needs, or is not wanted any more: what else is recorded of it is let go of. */
  forget(id: string): void {
    if (this.takes.delete(id)) this.sayTakes();
  }

  /** A recording has come another way, all of it. */
  adopt(recording: FarRecording): void {
    this.arriving.set(recording.id, { recording, here: new BlocksHere(), isWhole: true });
    this.unsaid.add(recording.id);
    this.ports.whole(recording);
  }

  /**
   * How much of a take has come, and of how much, in frames of its recordings; null before one is announced.
   */
  progress(take: string): { here: number; of: number; whole: boolean } | null {
    const own = this.recordingsOf(take);
    if (own.length === 0) return null;
    return own.reduce<{ here: number; of: number; whole: boolean }>(
      (sum, { recording, here, isWhole }) => ({
        here: sum.here + (isWhole ? recording.frames : Math.min(recording.frames, here.count * blockFrames)),
        of: sum.of + recording.frames,
        whole: sum.whole && isWhole,
      }),
      { here: 0, of: 0, whole: true },
    );
  }

  receive(message: FromTalent, nowSeconds: number, nowMs: number): void {
    switch (message.kind) {
      case 'tick':
        this.ports.send({
          kind: 'tock',
          life: this.life,
          of: message.life,
          sent: message.sent,
          received: nowSeconds,
          answered: nowSeconds,
        });
        break;
      case 'recordings':
        for (const recording of message.recordings) this.announced(recording);
        this.acknowledge(nowMs);
        break;
      case 'hello':
        if (message.version !== lineVersion) this.ports.send({ kind: 'bye', reason: otherVersion });
        this.ports.hear(message);
        break;
      default:
        this.ports.hear(message);
    }
  }

  /**
   * A block has come; one of a recording that was not announced is not wanted, one that is there is thanked
   * for.
   */
  receiveBlock(block: BlockMessage): void {
    const arriving = this.arriving.get(block.recording);
    if (!arriving) return;
    const { recording, here } = arriving;
    if (here.has(block.index)) this.unsaid.add(recording.id);
    else if (fits(block, recording)) this.ports.store(block, recording);
  }

  /** A block is on disk. */
  stored(id: string, index: number, nowMs: number): void {
    const arriving = this.arriving.get(id);
    if (!arriving) return;
    arriving.here.add(index);
    this.unsaid.add(id);
    this.look(arriving);
    this.acknowledge(nowMs);
  }

  beat(nowMs: number): void {
    if (!this.connected) return;
    if (nowMs - this.saidMs >= sayMs) {
      this.saidMs = nowMs;
      this.sayTakes();
    }
    this.acknowledge(nowMs);
  }

  // — Inside —

  private recordingsOf = (take: string) =>
    [...this.arriving.values()].filter(({ recording }) => recording.take === take);

  private sayTakes() {
    if (!this.connected) return;
    this.ports.send({ kind: 'takes', takes: [...this.takes.values()].slice(-mostTakes) });
  }

  /** What is said of a recording may only grow; nobody records what was not asked for. */
  private announced(recording: FarRecording) {
    const known = this.arriving.get(recording.id);
    if (!known && !this.takes.has(recording.take)) return;
    if (known?.recording.closed) {
      // A clock may still have been compared better.
      if (!known.isWhole) this.note(known, { ...known.recording, ...clockOf(recording) });
      this.unsaid.add(recording.id);
      return;
    }
    if (known && !grewFrom(known.recording, recording)) return;
    if (known && JSON.stringify(known.recording) === JSON.stringify(recording)) return;
    const arriving = known ?? { recording, here: new BlocksHere(), isWhole: false };
    this.arriving.set(recording.id, arriving);
    this.note(arriving, recording);
    this.unsaid.add(recording.id);
    this.look(arriving);
  }

  private note(arriving: Arriving, recording: FarRecording) {
    arriving.recording = recording;
    this.ports.note(recording);
  }

  private look(arriving: Arriving) {
    const { recording, here, isWhole } = arriving;
    if (isWhole || !recording.closed || here.count < blocksOf(recording)) return;
    arriving.isWhole = true;
    this.ports.whole(recording);
  }

  private acknowledge(nowMs: number) {
    if (!this.connected || this.unsaid.size === 0 || nowMs - this.ackedMs < ackMs) return;
    this.ackedMs = nowMs;
    const kept: string[] = [];
    for (const id of this.unsaid) {
      const arriving = this.arriving.get(id);
      if (arriving?.isWhole) kept.push(id);
      else if (arriving) this.ports.send({ kind: 'have', recording: id, ...arriving.here.have });
    }
    this.unsaid.clear();
    if (kept.length > 0) this.ports.send({ kind: 'kept', recordings: kept });
  }
}

export const otherVersion = say`The two sides have different versions of Parola. Reload the page, so that both have the newest.`;

/** A short block is the last one: of a recording that still grows there is none. */
function fits({ index, audio }: BlockMessage, { channels, frames, closed }: FarRecording): boolean {
  const whole = closed ? Math.min(blockFrames, frames - index * blockFrames) : blockFrames;
  return audio.length === channels && audio[0].length === whole;
}

const clockOf = ({ clock, studioLife }: FarRecording) => ({ clock, studioLife });

/** Whether a recording is the same one, further on. */
const grewFrom = (before: FarRecording, after: FarRecording) =>
  after.take === before.take &&
  after.rateHz === before.rateHz &&
  after.channels === before.channels &&
  after.startsAt === before.startsAt &&
  after.life === before.life &&
  after.frames >= before.frames;
