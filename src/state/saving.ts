import { create } from 'zustand';
import { notifyError } from './notices';

/** What the “Saved” sign shows. `failed` stays until a later save succeeds. */
export const useSaving = create<{ pending: number; savedAt: number | null; failed: boolean }>(() => ({
  pending: 0,
  savedAt: null,
  failed: false,
}));

let queue: Promise<unknown> = Promise.resolve();

/** Runs saves one after another, in the order of the edits; a failure is told and does not stop later saves. */
export function save(task: () => Promise<unknown>): Promise<boolean> {
  useSaving.setState(({ pending }) => ({ pending: pending + 1 }));
  const result = queue.then(task).then(
    () => {
      useSaving.setState(({ pending }) => ({ pending: pending - 1, savedAt: Date.now(), failed: false }));
      return true;
    },
    (error) => {
      useSaving.setState(({ pending }) => ({ pending: pending - 1, failed: true }));
      notifyError(error);
      return false;
    },
  );
  queue = result;
  return result;
}

/** Resolves when everything asked for so far is on disk. */
export const saved = () => queue;
