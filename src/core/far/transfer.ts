/** What is known of a recording's blocks on the far side: all below `next`, and these beyond it. */
export interface Have {
  readonly next: number;
  readonly beyond: readonly number[];
}

/** How far ahead of the first one that is missing blocks are sent. */
export const windowBlocks = 16;

interface Sending {
  /** Blocks that are on disk and can be sent. */
  blocks: number;
  next: number;
  readonly beyond: Set<number>;
  /** When each block that is under way was sent, in ms. */
  readonly under: Map<number, number>;
}

/**
 * Which block goes next, of several recordings, the oldest first. A block counts as sent once the far side
 * says that it stands on its disk; one that later blocks have overtaken, or that nothing is heard of for
 * `patienceMs`, goes again.
 */
export class BlockSender {
  private readonly recordings = new Map<string, Sending>();

  constructor(private readonly patienceMs = 8000) {}

  /** A recording has so many blocks on disk. */
  grown(id: string, blocks: number): void {
    const known = this.recordings.get(id);
    if (known) known.blocks = Math.max(known.blocks, blocks);
    else this.recordings.set(id, { blocks, next: 0, beyond: new Set(), under: new Map() });
  }

  remove(id: string): void {
    this.recordings.delete(id);
  }

  /** What the far side says it has; the newest word counts, whatever was said before. */
  acknowledged(id: string, { next, beyond }: Have): void {
    const sending = this.recordings.get(id);
    if (!sending) return;
    // Word that was overtaken by later word says less.
    if (next < sending.next) return;
    sending.next = next;
    sending.beyond.clear();
    for (const index of beyond) if (index > next) sending.beyond.add(index);
    const newest = Math.max(next - 1, ...sending.beyond);
    const newestSent = sending.under.get(newest) ?? -Infinity;
    for (const [index, sentMs] of sending.under) {
      const isThere = index < next || sending.beyond.has(index);
      const isOvertaken = index < newest && sentMs < newestSent;
      if (isThere || isOvertaken) sending.under.delete(index);
    }
  }

  /** How many blocks of a recording the far side has said to have. */
  sent(id: string): number {
    const sending = this.recordings.get(id);
    return sending ? sending.next + sending.beyond.size : 0;
  }

  /** The line is a new one: what was under way on the old one is not. */
  restart(): void {
    for (const { under } of this.recordings.values()) under.clear();
  }

  /** The block to send now, which counts as under way from then on; null while there is none. */
  take(nowMs: number): { recording: string; index: number } | null {
    for (const [recording, sending] of this.recordings) {
      const last = Math.min(sending.blocks, sending.next + windowBlocks);
      for (let index = sending.next; index < last; index++) {
        const sentMs = sending.under.get(index);
        if (sending.beyond.has(index) || (sentMs !== undefined && nowMs - sentMs < this.patienceMs)) continue;
        sending.under.set(index, nowMs);
        return { recording, index };
      }
    }
    return null;
  }
}

/** Blocks of one recording that have come and stand on disk. */
export class BlocksHere {
  private nextBlock = 0;
  private readonly later = new Set<number>();

  constructor(stored: Iterable<number> = []) {
    for (const index of stored) this.add(index);
  }

  has(index: number): boolean {
    return index < this.nextBlock || this.later.has(index);
  }

  add(index: number): void {
    if (this.has(index)) return;
    this.later.add(index);
    while (this.later.delete(this.nextBlock)) this.nextBlock++;
  }

  /** How many there are. */
  get count(): number {
    return this.nextBlock + this.later.size;
  }

  /** What is said of them. */
  get have(): { next: number; beyond: number[] } {
    return { next: this.nextBlock, beyond: [...this.later].sort((a, b) => a - b).slice(0, windowBlocks) };
  }
}
