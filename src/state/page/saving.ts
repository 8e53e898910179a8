import { say } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError, type ParolaError } from '@/core/base/errors';
import { within } from '@/core/base/waiting';
import { notify } from './notices';

/** What the “Saved” sign shows. `failed` stays until what could not be stored has been stored. */
export const useSaving = create<{ pending: number; savedAt: number | null; failed: boolean }>(() => ({
  pending: 0,
  savedAt: null,
  failed: false,
}));

interface Write {
  task: () => Promise<unknown>;
  settle: (stored: boolean) => void;
  /** Where somebody has looked, not what somebody has made: without it nothing is missing. */
  passing: boolean;
}

/**
 * A write that has not ended by then counts as failed. Writes may be repeated: doing one twice is the same as
 * once.
 */
const longestMs = 30_000;
const retryMs = [1000, 2000, 5000, 10_000];

const queue: Write[] = [];
let working = false;
let attempts = 0;
let retry: ReturnType<typeof setTimeout> | undefined;
let watchers: ((stored: boolean) => void)[] = [];

/** Trying again cannot help: what was to be written to is gone, or the data cannot be written. */
const isFinal = ({ code }: ParolaError, thrown: unknown) =>
  code === 'not-found' ||
  (thrown instanceof Error && ['DataCloneError', 'DataError', 'TypeError'].includes(thrown.name));

function tellWatchers(stored: boolean) {
  const told = watchers;
  watchers = [];
  for (const tell of told) tell(stored);
}

/** The sign says that something is not saved until nothing waits any more. */
const showLeft = (changes: { savedAt?: number } = {}) =>
  useSaving.setState(({ failed }) => ({
    ...changes,
    pending: queue.length,
    failed: failed && queue.length > 0,
  }));

/** A page that is not seen draws nothing. */
const longestFrameMs = 50;

/**
 * Resolves once what has changed can be seen: storing a part of thousands of pieces holds the page up for
 * longer than drawing it.
 */
function drawn(): Promise<void> {
  if (typeof requestAnimationFrame !== 'function') return Promise.resolve();
  return new Promise((resolve) => {
    const timer = setTimeout(resolve, longestFrameMs);
    requestAnimationFrame(() =>
      setTimeout(() => {
        clearTimeout(timer);
        resolve();
      }),
    );
  });
}

async function work(): Promise<void> {
  if (working) return;
  working = true;
  clearTimeout(retry);
  await drawn();
  while (queue.length > 0) {
    const [{ task, settle, passing }] = queue;
    try {
      await within(task(), longestMs, say`The storage of this browser does not answer.`);
      queue.shift();
      attempts = 0;
      showLeft({ savedAt: Date.now() });
      settle(true);
    } catch (thrown) {
      const error = toParolaError(thrown);
      if (passing || isFinal(error, thrown)) {
        queue.shift();
        if (!passing) notify('error', error.message, 'kept');
        showLeft();
        settle(false);
        continue;
      }
      if (attempts === 0)
        notify(
          'error',
          say`${error.message} What is not stored yet waits in its order, and is tried again by itself: leave this window open.`,
          'kept',
        );
      useSaving.setState({ failed: true });
      retry = setTimeout(() => void work(), retryMs[Math.min(attempts++, retryMs.length - 1)]);
      working = false;
      return tellWatchers(false);
    }
  }
  working = false;
  tellWatchers(true);
}

/**
 * Runs writes one after another, in the order of the edits. One that fails is told of and tried again until
 * it is stored; nothing that comes after it is written before. Resolves to true when it is on disk, to false
 * when it never can be.
 */
export const save = (task: () => Promise<unknown>): Promise<boolean> => enqueue(task, false);

/**
 * The same for what may be missing: where the caret rests, which part was open. Tried once, in its order; a
 * disk that is full is no reason to stop anybody from looking around.
 */
export const savePassing = (task: () => Promise<unknown>): Promise<boolean> => enqueue(task, true);

function enqueue(task: () => Promise<unknown>, passing: boolean): Promise<boolean> {
  return new Promise((settle) => {
    queue.push({ task, settle, passing });
    useSaving.setState({ pending: queue.length });
    void work();
  });
}

/**
 * Resolves to true when everything asked for so far is on disk, to false as soon as something could not be
 * stored yet.
 */
export function saved(): Promise<boolean> {
  if (queue.length === 0 && !working) return Promise.resolve(true);
  return new Promise((resolve) => {
    watchers.push(resolve);
    void work();
  });
}

/** Tries what could not be stored at once, for whoever has made room for it. */
export const tryAgain = () => void work();

/** Resolves to true once nothing waits any more, however long that takes. */
export async function stored(): Promise<true> {
  while (!(await saved())) await new Promise((resolve) => setTimeout(resolve, retryMs[0]));
  return true;
}
