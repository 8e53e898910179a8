import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { RateBound } from '@/core/base/rateBound';

/** A sealed letter of one side of a line to the other: what is in it this machine cannot read. */
export interface Letter {
  readonly n: number;
  readonly from: string;
  readonly sealed: string;
}

interface Box {
  letters: Letter[];
  waiting: (() => void)[];
}

interface Room {
  readonly owner: string;
  readonly boxes: Map<string, Box>;
  next: number;
  readonly bound: RateBound;
  studioSeenMs: number;
}

export const limits = {
  rooms: 200,
  /** The studio and those who have knocked. */
  people: 24,
  letters: 64,
  letterLength: 64_000,
  lettersPerSecond: 10,
  /** A room whose studio has not asked for its letters for so long is gone. */
  lifeMs: 120_000,
} as const;

const isName = (name: string) => /^[\w-]{20,40}$/.test(name);

const notThere = () =>
  new ParolaError(
    'not-found',
    say`Nobody is in this session. Ask the studio to open it again, and for the link if there is a new one.`,
  );

/**
 * Rooms in the memory of this process, in which a studio and its talents leave letters for each other until
 * they have a line of their own. A room is opened by its studio, under a name nobody can guess; it lasts as
 * long as the studio looks after it. `studio` is the name of the studio's box.
 */
export class Rooms {
  private readonly rooms = new Map<string, Room>();

  constructor(private readonly now: () => number = Date.now) {}

  /** Leaves a letter. Throws ParolaError `not-found`, `busy`, `too-large` or `permission-denied`. */
  leave(
    name: string,
    { from, to, sealed, owner }: { from: string; to: string; sealed: string; owner: string },
  ): void {
    if (sealed.length > limits.letterLength)
      throw new ParolaError('too-large', say`This letter is too long for the room.`);
    const room = this.enter(name, from, owner);
    if (!room.bound.take(this.now()))
      throw new ParolaError('busy', say`There are too many letters in this room. Wait a moment.`);
    const box = boxOf(room, to);
    box.letters.push({ n: room.next++, from, sealed });
    if (box.letters.length > limits.letters) box.letters.shift();
    for (const wake of box.waiting.splice(0)) wake();
  }

  /**
   * The letters for `as` from number `after` on, as soon as there are any, or none when `signal` ends the
   * wait. Those before it have been read and go.
   */
  async read(
    name: string,
    { as, owner, after }: { as: string; owner: string; after: number },
    signal: AbortSignal,
  ): Promise<Letter[]> {
    const room = this.enter(name, as, owner);
    const box = boxOf(room, as);
    box.letters = box.letters.filter(({ n }) => n >= after);
    if (box.letters.length === 0 && !signal.aborted)
      await new Promise<void>((resolve) => {
        box.waiting.push(resolve);
        const giveUp = () => {
          box.waiting = box.waiting.filter((wake) => wake !== resolve);
          resolve();
        };
        signal.addEventListener('abort', giveUp, { once: true });
      });
    if (as === 'studio') room.studioSeenMs = this.now();
    return [...box.letters];
  }

  private enter(name: string, who: string, owner: string): Room {
    this.sweep();
    if (!isName(name) || (who !== 'studio' && !isName(who))) throw notThere();
    const known = this.rooms.get(name);
    if (who !== 'studio') {
      if (!known) throw notThere();
      return known;
    }
    if (!isName(owner)) throw new ParolaError('permission-denied', say`This room has a studio already.`);
    if (known && known.owner !== owner)
      throw new ParolaError('permission-denied', say`This room has a studio already.`);
    if (!known && this.rooms.size >= limits.rooms)
      throw new ParolaError(
        'busy',
        say`There are too many sessions on this server. Try again in some minutes.`,
      );
    const room = known ?? {
      owner,
      boxes: new Map(),
      next: 1,
      bound: new RateBound(limits.lettersPerSecond),
      studioSeenMs: 0,
    };
    room.studioSeenMs = this.now();
    this.rooms.set(name, room);
    return room;
  }

  private sweep() {
    for (const [name, { studioSeenMs }] of this.rooms)
      if (this.now() - studioSeenMs > limits.lifeMs) this.rooms.delete(name);
  }
}

function boxOf(room: Room, name: string): Box {
  const known = room.boxes.get(name);
  if (known) return known;
  if (room.boxes.size >= limits.people)
    throw new ParolaError('busy', say`Too many have come to this session. Ask the studio for a new link.`);
  const box = { letters: [], waiting: [] };
  room.boxes.set(name, box);
  return box;
}
