import { blockFrames } from '../base/audio';
import { seededRandom } from '../base/random';
import { readBlockMessage, writeBlockMessage } from '../far/blockMessage';
import {
  readFromStudio,
  readFromTalent,
  writeMessage,
  type FarRecording,
  type WantedTake,
} from '../far/messages';
import { SimulatedLine, type Weather } from '../far/simulatedLine';
import { StudioSide } from '../far/studioSide';
import { TalentSide } from '../far/talentSide';

export const farRateHz = 8000;
const stepMs = 50;

/** Ids as `crypto.randomUUID` makes them, from a seed. */
export function seededIds(seed: number): () => string {
  const random = seededRandom(seed);
  return () =>
    'xxxxxxxx-xxxx-4xxx-8xxx-xxxxxxxxxxxx'.replaceAll('x', () => Math.floor(random() * 16).toString(16));
}

/** What the talent's microphone gives: every frame of its clock has a sample of its own. */
const sampleAt = (frame: number) => {
  const mixed = Math.imul(frame ^ 0x9e3779b9, 0x85ebca6b);
  return Math.fround(((mixed ^ (mixed >>> 13)) >>> 0) / 2 ** 31 - 1);
};

function samplesAt(first: number, frames: number): Float32Array {
  const samples = new Float32Array(frames);
  for (let i = 0; i < frames; i++) samples[i] = sampleAt(first + i);
  return samples;
}

interface Recorder {
  readonly id: string;
  readonly fromFrame: number;
  toFrame: number;
}

export interface FarWorld {
  readonly weather: Weather;
  readonly seed: number;
  /** How far the talent's clock is from the studio's, in seconds, and how much faster it goes. */
  readonly offsetSeconds?: number;
  readonly ppm?: number;
}

/**
 * A studio and a talent with their disks, a recorder and a line between them, in simulated time. Whatever is
 * not on a disk is gone when a side is killed; audio is on disk in whole blocks, as the recorder writes them.
 */
export class FarLine {
  ms = 0;
  readonly ids: () => string;
  private readonly up: SimulatedLine;
  private readonly down: SimulatedLine;
  private readonly under: { ms: number; deliver: () => void }[] = [];

  readonly talentDisk = new Map<string, FarRecording>();
  readonly studioDisk = {
    recordings: new Map<string, FarRecording>(),
    blocks: new Map<string, Map<number, Float32Array>>(),
    takes: new Map<string, WantedTake>(),
  };
  talent: TalentSide | null = null;
  studio: StudioSide | null = null;
  private studioLife = '';
  /** A message or block for somebody who has died since is lost. */
  private generation = { talent: 0, studio: 0 };
  private recorders: Recorder[] = [];
  /** Every recording that was ever begun. */
  readonly begun: { id: string; take: string; atFrame: number }[] = [];
  readonly whole: string[] = [];
  messages = 0;
  sentBlocks = 0;
  /** Told before each message is delivered. */
  onMessage: (count: number) => void = () => undefined;

  constructor(private readonly world: FarWorld) {
    this.ids = seededIds(world.seed + 1000);
    this.up = new SimulatedLine(world.weather, world.seed * 2 + 1);
    this.down = new SimulatedLine(world.weather, world.seed * 2 + 2);
    this.openStudio();
    this.openTalent();
  }

  private key = '';
  talentSeconds = (ms = this.ms) =>
    (ms / 1000) * (1 + (this.world.ppm ?? 0) / 1e6) + (this.world.offsetSeconds ?? 0);
  studioSeconds = (ms = this.ms) => ms / 1000;
  private frameNow = () => Math.floor(this.talentSeconds() * farRateHz);

  // — Living and dying —

  openTalent(): void {
    if (this.talent) return;
    const mine = ++this.generation.talent;
    this.key ||= this.ids();
    const side: TalentSide = new TalentSide(
      this.ids(),
      { key: this.key, name: 'Mara', rateHz: farRateHz, input: 'Simulated', granted: '', consentAt: 1 },
      {
        send: (message) => this.post(this.up, () => this.toStudio(writeMessage(message))),
        begin: (take, atSeconds) => this.beginRecorder(side, take, atSeconds, mine),
        end: (id, atSeconds) => {
          const recorder = this.recorders.find((one) => one.id === id);
          if (recorder) recorder.toFrame = Math.max(this.frameNow(), Math.ceil(atSeconds * farRateHz));
        },
        note: (recording) =>
          this.talentDisk.set(recording.id, { ...recording, frames: this.onDisk(recording) }),
        show: () => undefined,
        kept: () => undefined,
      },
      [...this.talentDisk.values()],
    );
    this.talent = side;
    side.connect();
  }

  killTalent(): void {
    this.generation.talent++;
    this.talent = null;
    for (const { id } of this.recorders) {
      const recording = this.talentDisk.get(id);
      if (recording)
        this.talentDisk.set(id, {
          ...recording,
          frames: Math.floor(recording.frames / blockFrames) * blockFrames,
        });
    }
    this.recorders = [];
  }

  openStudio(): void {
    if (this.studio) return;
    this.generation.studio++;
    this.studioLife = this.ids();
    const { recordings, blocks, takes } = this.studioDisk;
    const stored = [...recordings.values()].map((recording) => ({
      recording,
      blocks: blocks.get(recording.id)?.keys() ?? [],
    }));
    const side: StudioSide = new StudioSide(
      this.studioLife,
      {
        send: (message) => this.post(this.down, () => this.toTalent(writeMessage(message))),
        note: (recording) => recordings.set(recording.id, recording),
        store: ({ recording, index, audio }) => {
          const own = blocks.get(recording) ?? new Map<number, Float32Array>();
          if (own.has(index)) throw new Error('a block is written twice');
          blocks.set(recording, own.set(index, audio[0]));
          side.stored(recording, index, this.ms);
        },
        whole: ({ id }) => this.whole.push(id),
        hear: () => undefined,
      },
      stored,
      [...takes.values()],
    );
    this.studio = side;
    side.connect();
  }

  /** A take that was running has ended with its studio. */
  killStudio(): void {
    this.generation.studio++;
    this.studio = null;
    for (const take of this.studioDisk.takes.values())
      if (take.to === null) this.studioDisk.takes.set(take.id, { ...take, to: this.studioSeconds() });
  }

  // — What happens —

  want(): string | null {
    if (!this.studio) return null;
    const take = { id: this.ids(), name: 'Take', from: this.studioSeconds() };
    this.studioDisk.takes.set(take.id, { ...take, life: this.studioLife, to: null });
    this.studio.want(take);
    return take.id;
  }

  endTake(id: string): void {
    const take = this.studioDisk.takes.get(id);
    if (!this.studio || take?.to !== null) return;
    this.studioDisk.takes.set(id, { ...take, to: this.studioSeconds() });
    this.studio.ended(id, this.studioSeconds());
  }

  /** Lets time pass. */
  run(ms: number): void {
    for (const end = this.ms + ms; this.ms < end; this.ms += stepMs) {
      this.record();
      this.deliver();
      this.talent?.beat(this.talentSeconds(), this.ms);
      this.studio?.beat(this.ms);
      for (let block = this.talent?.nextBlock(this.ms); block; block = this.talent?.nextBlock(this.ms))
        this.sendBlock(block);
    }
  }

  /** Until all that was recorded stands at the studio, at most so long. */
  settle(ms: number): boolean {
    this.openStudio();
    this.openTalent();
    for (const id of this.studioDisk.takes.keys()) this.endTake(id);
    for (const end = this.ms + ms; this.ms < end;) {
      this.run(1000);
      if (this.talent?.unsent.length === 0 && this.recorders.length === 0) return true;
    }
    return false;
  }

  /** What the talent's disk has of a recording. */
  recorded(id: string): Float32Array {
    const { startsAt, frames } = this.talentDisk.get(id) ?? { startsAt: 0, frames: 0 };
    const first = Math.round(startsAt * farRateHz);
    return samplesAt(first, frames);
  }

  /** What the studio's disk has of it, up to the first gap. */
  arrived(id: string): Float32Array {
    const blocks = this.studioDisk.blocks.get(id) ?? new Map<number, Float32Array>();
    const parts: Float32Array[] = [];
    for (let index = 0; blocks.has(index); index++) parts.push(blocks.get(index) ?? new Float32Array(0));
    const whole = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
    parts.reduce((at, part) => (whole.set(part, at), at + part.length), 0);
    return whole;
  }

  // — The line —

  private post(line: SimulatedLine, deliver: () => void) {
    for (const ms of line.arrivals(this.ms)) this.under.push({ ms, deliver });
  }

  private deliver() {
    const due = this.under.filter(({ ms }) => ms <= this.ms).sort((a, b) => a.ms - b.ms);
    this.under.splice(0, this.under.length, ...this.under.filter(({ ms }) => ms > this.ms));
    for (const { deliver } of due) {
      this.onMessage(++this.messages);
      deliver();
    }
  }

  private toStudio(data: string) {
    const parsed = readFromTalent(data);
    if (!('message' in parsed)) throw new Error(`The talent has said what nobody understands: ${data}`);
    this.studio?.receive(parsed.message, this.studioSeconds(), this.ms);
  }

  private toTalent(data: string) {
    const parsed = readFromStudio(data);
    if (!('message' in parsed)) throw new Error(`The studio has said what nobody understands: ${data}`);
    this.talent?.receive(parsed.message, this.talentSeconds(), this.ms);
  }

  private sendBlock({ recording, index }: { recording: string; index: number }) {
    const { frames = 0, startsAt = 0 } = this.talentDisk.get(recording) ?? {};
    const from = index * blockFrames;
    const first = Math.round(startsAt * farRateHz) + from;
    const audio = samplesAt(first, Math.min(blockFrames, frames - from));
    const bytes = writeBlockMessage({ recording, index, audio: [audio] });
    this.sentBlocks++;
    this.post(this.up, () => this.studio?.receiveBlock(readBlockMessage(bytes)));
  }

  // — The recorder —

  private onDisk = ({ id, frames }: FarRecording) => this.talentDisk.get(id)?.frames ?? frames;

  private beginRecorder(side: TalentSide, take: WantedTake, atSeconds: number, mine: number) {
    if (this.generation.talent !== mine) return;
    const id = this.ids();
    const fromFrame = Math.round(atSeconds * farRateHz);
    this.recorders.push({ id, fromFrame, toFrame: Infinity });
    this.begun.push({ id, take: take.id, atFrame: fromFrame });
    side.began({ id, take: take.id, rateHz: farRateHz, channels: 1, startsAt: fromFrame / farRateHz });
    const recording = side.unsent.find((one) => one.id === id);
    if (recording) this.talentDisk.set(id, recording);
  }

  private record() {
    for (const { id, fromFrame, toFrame } of [...this.recorders]) {
      const recording = this.talentDisk.get(id);
      if (!recording) continue;
      const last = Math.min(this.frameNow(), toFrame);
      const closed = last >= toFrame;
      const frames = closed
        ? last - fromFrame
        : Math.floor(Math.max(0, last - fromFrame) / blockFrames) * blockFrames;
      this.talentDisk.set(id, { ...recording, frames, closed });
      if (closed) this.recorders = this.recorders.filter((one) => one.id !== id);
      this.talent?.grown(id, frames, closed);
    }
  }
}
