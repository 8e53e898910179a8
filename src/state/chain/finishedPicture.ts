import type { ChainPicture } from '@/core/chain/picture';
import { peakFrames } from '@/core/timeline/peaks';
import { samePieces } from '@/core/timeline/pieces';
import { sameSounding, type Sounding } from '@/core/timeline/sounding';
import { chainPictureClient } from '../page/jobs';
import { whenProjectCloses } from '../page/resets';
import { sourceLengths } from '../project/openProject';

/**
 * Heard frames of one picture: a few cells of a chain, 1.4 s at 48 kHz; between two there is room for sound.
 */
const chunkFrames = 65_536;
/** While values are changed no pictures are made: hearing them comes first. */
const restMs = 150;
/** Pictures that are kept: half an hour. */
const keptChunks = 1400;
/** A picture of an earlier chain is shown until the new one is there. */
interface Kept {
  version: number;
  picture: ChainPicture;
}

export interface FinishedSpan {
  readonly low: number;
  readonly high: number;
  readonly takenDb: number;
  /** Of an earlier chain: another one comes. */
  readonly old: boolean;
}

/**
 * What a voice looks like behind its chain, in heard time. A look-up never waits; listeners are told when
 * more has come. What is seen is made first.
 */
class FinishedPictures {
  private sound: Sounding | null = null;
  private version = 0;
  private readonly chunks = new Map<number, Kept>();
  private wanted: number[] = [];
  private running = false;
  private resting: ReturnType<typeof setTimeout> | undefined;
  private readonly listeners = new Set<() => void>();

  onLoaded(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Looks at this voice from now on; null for none. The same sound stays as it is. Returns the version of
   * what is looked at.
   */
  show(sound: Sounding | null): number {
    if (this.sound === sound || (this.sound && sound && sameSounding(this.sound, sound))) return this.version;
    const another = !isSameVoice(this.sound, sound);
    if (another) this.chunks.clear();
    this.sound = sound;
    this.version++;
    this.wanted = [];
    clearTimeout(this.resting);
    this.resting = undefined;
    if (!sound) return this.version;
    this.resting = setTimeout(
      () => {
        this.resting = undefined;
        chainPictureClient.run('begin', { sounding: sound, sources: sourceLengths() }).catch(() => undefined);
        this.tell();
      },
      another ? 0 : restMs,
    );
    return this.version;
  }

  /** Edges of one channel and what is taken off, in heard frames [from, to); null while it is being made. */
  span(channel: number, from: number, to: number): FinishedSpan | null {
    if (!this.sound) return null;
    let [low, high, takenDb] = [Infinity, -Infinity, 0];
    let old = false;
    const last = Math.max(from + 1, to);
    for (let index = Math.floor(from / chunkFrames); index * chunkFrames < last; index++) {
      const kept = this.chunks.get(index);
      if (kept?.version !== this.version) {
        this.want(index);
        old = true;
      }
      if (!kept) return null;
      const { picture } = kept;
      const edges = {
        low: picture.low[channel] ?? picture.low[0],
        high: picture.high[channel] ?? picture.high[0],
      };
      const begin = Math.max(0, Math.floor((from - index * chunkFrames) / peakFrames));
      const end = Math.min(
        edges.low.length,
        Math.max(begin + 1, Math.ceil((last - index * chunkFrames) / peakFrames)),
      );
      for (let i = begin; i < end; i++) {
        if (edges.low[i] < low) low = edges.low[i];
        if (edges.high[i] > high) high = edges.high[i];
        if (picture.takenDb[i] < takenDb) takenDb = picture.takenDb[i];
      }
    }
    return low > high ? null : { low, high, takenDb, old };
  }

  private want(index: number) {
    if (this.resting !== undefined) return;
    if (!this.wanted.includes(index)) this.wanted = [...this.wanted, index].slice(-96);
    void this.work();
  }

  private async work() {
    if (this.running) return;
    this.running = true;
    try {
      for (let index = this.wanted.shift(); index !== undefined; index = this.wanted.shift()) {
        const { version } = this;
        const range = { from: index * chunkFrames, to: (index + 1) * chunkFrames };
        const picture = await chainPictureClient.run('picture', range).catch(() => null);
        if (!picture || version !== this.version) continue;
        this.chunks.delete(index);
        this.chunks.set(index, { version, picture });
        for (const oldest of this.chunks.keys()) {
          if (this.chunks.size <= keptChunks) break;
          this.chunks.delete(oldest);
        }
        this.tell();
      }
    } finally {
      this.running = false;
    }
  }

  private tell() {
    for (const listener of this.listeners) listener();
  }
}

/** Pictures of another chain are shown until their own are there; those of other pieces are not. */
const isSameVoice = (a: Sounding | null, b: Sounding | null) =>
  !!a &&
  a.tracks.length === b?.tracks.length &&
  a.tracks.every(({ pieces }, index) => samePieces(pieces, b.tracks[index].pieces));

export const finishedPictures = new FinishedPictures();
whenProjectCloses(() => finishedPictures.show(null));
