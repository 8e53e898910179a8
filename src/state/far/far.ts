import { create } from 'zustand';
import type { Hello } from '@/core/far/messages';
import { whenProjectCloses } from '../page/resets';

/**
 * So many talents at once, each on an input of its own; the one after them is the studio's own microphone.
 */
export const seats = 4;
export const ownSeat = seats;

/** Somebody who has come to the session. */
export interface Person {
  readonly key: string;
  readonly name: string;
  /** `knocking` until the studio lets them in; `away` when the line is down. */
  readonly state: 'knocking' | 'calling' | 'open' | 'away' | 'refused';
  /** Input of the line, from 0; null until they are let in. */
  readonly seat: number | null;
  readonly hello: Hello | null;
  /** Level of their microphone, where they are. */
  readonly level: { readonly peakDb: number; readonly rmsDb: number } | null;
  /** How long their sound is on its way here, and ours there, in seconds. */
  readonly delaySeconds: number;
  readonly outDelaySeconds: number;
  readonly lost: number | null;
  readonly trouble: string;
}

/** How much of a take has come. */
export interface Arriving {
  readonly here: number;
  readonly of: number;
  /** All of it is here and is being laid in its place. */
  readonly laying: boolean;
}

export interface LogEntry {
  readonly at: number;
  readonly who: string;
  readonly what: string;
}

interface Far {
  status: 'closed' | 'opening' | 'open';
  secret: string;
  /** Why the room cannot be reached, or ''. */
  unreached: string;
  people: readonly Person[];
  /** The studio can be heard while nothing is recorded. */
  talking: boolean;
  /** The studio's own microphone is open, for talking or for a track of its own. */
  ownMicrophone: boolean;
  /**
   * The talents' line is for talking without headphones: echo and noise are taken out of it, not of what is
   * recorded.
   */
  cleaned: boolean;
  /** What is set up and who has come is shown. */
  shown: boolean;
  /** Takes of which something is still to come, by their ids. */
  arriving: ReadonlyMap<string, Arriving>;
  log: readonly LogEntry[];
}

const none: Far = {
  status: 'closed',
  secret: '',
  unreached: '',
  people: [],
  talking: false,
  ownMicrophone: false,
  cleaned: false,
  shown: false,
  arriving: new Map(),
  log: [],
};

export const useFar = create<Far>(() => none);
whenProjectCloses(() => useFar.setState(none));

export const personOf = (key: string) => useFar.getState().people.find((person) => person.key === key);

export function changePerson(key: string, changes: Partial<Person>): void {
  useFar.setState(({ people }) => ({
    people: people.map((person) => (person.key === key ? { ...person, ...changes } : person)),
  }));
}

export const showSession = (shown: boolean) => useFar.setState({ shown });
