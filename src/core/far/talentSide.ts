import { blockFrames } from '../base/audio';
import { ClockComparison, ownTime, type ClockLine } from './clock';
import {
  lineVersion,
  type FarRecording,
  type FromStudio,
  type FromTalent,
  type Hello,
  type WantedTake,
} from './messages';
import { BlockSender } from './transfer';

type Shown = 'welcome' | 'script' | 'moving' | 'picture' | 'bye';

/** What the talent's side has done for it, by whatever it lives in. Seconds are of its own clock. */
export interface TalentPorts {
  send(message: FromTalent): void;
  /** Records a take from that second on; answered by `began` or by `failed`. */
  begin(take: WantedTake, atSeconds: number): void;
  end(recording: string, atSeconds: number): void;
  /** To be kept with a recording: it is all that a later life has of it. */
  note(recording: FarRecording): void;
  /** What is only to be shown, or obeyed by the page. */
  show(message: Extract<FromStudio, { kind: Shown }>): void;
  /** It stands whole at the studio. */
  kept(recording: string): void;
}

/** A recording as it begins. */
export type BegunRecording = Pick<FarRecording, 'id' | 'take' | 'rateHz' | 'channels' | 'startsAt'>;

/** While clocks are strangers they are compared at every beat, so many times; then once a second. */
const firstTicks = 24;
const tickMs = 1000;
/** What has been recorded is said again so often: it may not have been heard. */
const announceMs = 1000;
/** An input's last seconds are held: so long after its beginning a take can still be recorded from there. */
const heldSeconds = 2.4;
/** The clocks of a recording are compared by what was heard so long before and after it. */
const aroundSeconds = 120;
const mostAnnounced = 256;

/**
 * The talent's end of a line: what was recorded there, which of it is still to be sent, how the studio's
 * clock goes by its own. It knows nothing of how messages travel: they may be lost, doubled or late, the line
 * may be away for hours, and either side may die at any moment. What it says it says again until it is
 * answered.
 */
export class TalentSide {
  private readonly recordings = new Map<string, FarRecording>();
  private readonly clocks = new Map<string, ClockComparison>();
  private readonly sender = new BlockSender();
  private wanted: readonly WantedTake[] = [];
  /** Takes whose recording has been asked for and has not begun. */
  private readonly asked = new Set<string>();
  /** Takes this life has recorded, or could not record: none of them is begun again. */
  private readonly done = new Set<string>();
  private readonly ending = new Set<string>();
  private studioLife: string | null = null;
  private connected = false;
  private ticks = 0;
  private tickedMs = -Infinity;
  private announcedMs = -Infinity;

  /** `stored` are those of earlier lives that the studio does not have: none of them grows any more. */
  constructor(
    private readonly life: string,
    private readonly hello: Omit<Hello, 'version' | 'life'>,
    private readonly ports: TalentPorts,
    stored: readonly FarRecording[] = [],
  ) {
    for (const recording of stored) this.keep({ ...recording, closed: true });
  }

  /** A line is there: everything is said anew. */
  connect(): void {
    this.connected = true;
    this.ticks = 0;
    this.tickedMs = this.announcedMs = -Infinity;
    this.sender.restart();
    this.ports.send({ kind: 'hello', version: lineVersion, life: this.life, ...this.hello });
  }

  disconnect(): void {
    this.connected = false;
  }

  /** Recordings that the studio has not said to have, the oldest first. */
  get unsent(): readonly FarRecording[] {
    return [...this.recordings.values()];
  }

  /** How the studio's clock goes by its own; null while they are strangers. */
  get clock(): ClockLine | null {
    return this.clockOf(this.studioLife);
  }

  /** Blocks of a recording that the studio has said to have. */
  sent(id: string): number {
    return this.sender.sent(id);
  }

  receive(message: FromStudio, nowSeconds: number, nowMs: number): void {
    switch (message.kind) {
      case 'tock':
        this.compare(message, nowSeconds);
        this.follow(nowSeconds);
        break;
      case 'takes':
        this.wanted = message.takes;
        this.follow(nowSeconds);
        break;
      case 'have':
        this.sender.acknowledged(message.recording, message);
        break;
      case 'kept':
        for (const id of message.recordings) this.forget(id);
        break;
      default:
        this.ports.show(message);
    }
    this.beat(nowSeconds, nowMs);
  }

  /** To be called several times a second, whether or not anything has come. */
  beat(nowSeconds: number, nowMs: number): void {
    if (nowMs - this.announcedMs >= announceMs) this.announce(nowMs);
    if (!this.connected) return;
    if (this.ticks < firstTicks || nowMs - this.tickedMs >= tickMs) {
      this.tickedMs = nowMs;
      this.ticks++;
      this.ports.send({ kind: 'tick', life: this.life, sent: nowSeconds });
    }
  }

  /** A block to send now; it stands on disk. Null while there is none. */
  nextBlock(nowMs: number): { recording: string; index: number } | null {
    return this.connected ? this.sender.take(nowMs) : null;
  }

  // — What its recorder says —

  began(recording: BegunRecording): void {
    this.asked.delete(recording.take);
    this.done.add(recording.take);
    this.keep({ ...recording, frames: 0, closed: false, life: this.life, clock: null, studioLife: null });
    this.announcedMs = -Infinity;
  }

  /**
   * Nothing comes of a take: it is not asked for again, since whatever is wrong has to be put right first.
   */
  failed(take: string, code: string, text: string): void {
    this.asked.delete(take);
    this.done.add(take);
    this.ports.send({ kind: 'trouble', code, text });
  }

  /** A recording has so many frames on disk; `closed` where no more will come. */
  grown(id: string, frames: number, closed: boolean): void {
    const recording = this.recordings.get(id);
    if (!recording || recording.closed) return;
    this.keep({ ...recording, frames: Math.max(frames, recording.frames), closed });
    if (!closed) return;
    this.ending.delete(id);
    this.announcedMs = -Infinity;
  }

  // — Inside —

  private keep(recording: FarRecording) {
    const { id, frames, closed } = recording;
    this.recordings.set(id, recording);
    this.sender.grown(id, closed ? Math.ceil(frames / blockFrames) : Math.floor(frames / blockFrames));
  }

  /** One that still grows is not whole anywhere. */
  private forget(id: string) {
    if (!this.recordings.get(id)?.closed) return;
    this.recordings.delete(id);
    this.sender.remove(id);
    this.ports.kept(id);
  }

  private clockOf(studioLife: string | null, from?: number, to?: number): ClockLine | null {
    return (studioLife && this.clocks.get(studioLife)?.line(from, to)) || null;
  }

  private compare(tock: Extract<FromStudio, { kind: 'tock' }>, back: number) {
    if (tock.of !== this.life) return;
    this.studioLife = tock.life;
    const comparison = this.clocks.get(tock.life) ?? new ClockComparison();
    this.clocks.set(tock.life, comparison);
    comparison.add({ ...tock, back });
  }

  /** Says what has been recorded; it is kept as well, whether or not anybody hears it. */
  private announce(nowMs: number) {
    this.announcedMs = nowMs;
    for (const recording of this.recordings.values()) {
      const compared = this.withClock(recording);
      this.recordings.set(recording.id, compared);
      this.ports.note(compared);
    }
    if (this.connected)
      this.ports.send({ kind: 'recordings', recordings: this.unsent.slice(0, mostAnnounced) });
  }

  /**
   * With how the studio's clock goes by its own around it. What an earlier life has found out is all there is
   * of its clock; a studio that has come back has another one, which says nothing of a recording that is
   * over.
   */
  private withClock(recording: FarRecording): FarRecording {
    const { life, closed, studioLife, startsAt, frames, rateHz } = recording;
    if (life !== this.life) return recording;
    const known = studioLife ?? this.wanted.find(({ id }) => id === recording.take)?.life ?? this.studioLife;
    const end = startsAt + frames / rateHz;
    const line =
      this.clockOf(known, startsAt - aroundSeconds, closed ? end + aroundSeconds : undefined) ??
      this.clockOf(known);
    return line && !sameLine(line, recording.clock)
      ? { ...recording, clock: line, studioLife: known }
      : recording;
  }

  /** Begins and ends what is wanted, as far as the clocks tell when that is. */
  private follow(nowSeconds: number) {
    for (const take of this.wanted) {
      const line = this.clockOf(take.life);
      if (!line) continue;
      const own = [...this.recordings.values()].filter((one) => one.take === take.id && !one.closed);
      const from = ownTime(line, take.from);
      const to = take.to === null ? null : ownTime(line, take.to);
      if (to !== null) for (const { id } of own) this.end(id, to);
      if (own.length > 0 || this.asked.has(take.id) || this.done.has(take.id)) continue;
      // One that is over can be recorded only as long as its sound is still held.
      if (to !== null && to < nowSeconds && from < nowSeconds - heldSeconds) continue;
      this.asked.add(take.id);
      this.ports.begin(take, from);
    }
    const wanted = new Set(this.wanted.map(({ id }) => id));
    for (const { id, take, closed } of this.recordings.values())
      if (!closed && !wanted.has(take)) this.end(id, nowSeconds);
  }

  private end(id: string, atSeconds: number) {
    if (this.ending.has(id)) return;
    this.ending.add(id);
    this.ports.end(id, atSeconds);
  }
}

const sameLine = (a: ClockLine, b: ClockLine | null) =>
  b !== null &&
  a.own === b.own &&
  a.other === b.other &&
  a.ppm === b.ppm &&
  a.errorSeconds === b.errorSeconds;
