import { notify, notifyError } from '@/state/page/notices';
import { say } from '@/texts/say';

/** Longer than this nobody's keys wait for what was asked before them. */
const longestMs = 2000;

interface Turn {
  /** A promise where it looks first. */
  act: () => unknown;
  /** Pressed again and again by a key that is held. */
  held: boolean;
}

/**
 * Some commands look first: where a sentence begins and ends is found in the sound. What is pressed meanwhile
 * is meant for what they find, so it waits for its turn, in order. A key that is held adds nothing to that.
 */
export class Turns {
  private readonly waiting: Turn[] = [];
  private busy = false;

  take(turn: Turn): void {
    if (!this.busy) this.begin(turn);
    else if (!turn.held) this.waiting.push(turn);
  }

  private begin({ act }: Turn): void {
    let looking: unknown;
    try {
      looking = act();
    } catch (error) {
      // The others that wait have their turn all the same.
      return notifyError(error);
    }
    if (!(looking instanceof Promise)) return;
    this.busy = true;
    let over = false;
    const end = () => {
      if (over) return;
      over = true;
      clearTimeout(timer);
      this.busy = false;
      while (!this.busy && this.waiting.length > 0) this.begin(this.waiting.shift() as Turn);
    };
    const timer = setTimeout(() => {
      if (this.waiting.length > 0)
        notify(
          'info',
          say`Looking in the sound takes longer than usual: what you pressed meanwhile is done without what was looked for. Check it, and undo it where it was not meant.`,
        );
      end();
    }, longestMs);
    looking.catch(notifyError).finally(end);
  }
}
