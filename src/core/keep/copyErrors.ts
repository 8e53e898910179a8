import { say } from '../../texts/say';
import { ParolaError, toParolaError } from '../base/errors';

/** What browsers throw where a folder cannot be written to (W3C File System), in words. */
const told: Record<string, () => ParolaError> = {
  NotAllowedError: () =>
    new ParolaError(
      'permission-denied',
      say`This browser does not let Parola write into the copy folder any more. Allow it again, and what is missing is copied.`,
    ),
  SecurityError: () => told.NotAllowedError(),
  NotFoundError: () =>
    new ParolaError(
      'not-found',
      say`The copy folder is not there. Plug its disk in, or put it back where it was: what is missing is copied then. Or choose another folder.`,
    ),
  QuotaExceededError: () =>
    new ParolaError(
      'storage-full',
      say`The disk of the copy folder is full. Make room on it: what is missing is copied by itself then. What is in this browser is whole.`,
    ),
  NoModificationAllowedError: () =>
    new ParolaError(
      'busy',
      say`Another program holds a file of the copy folder. It is tried again by itself.`,
    ),
  InvalidStateError: () =>
    new ParolaError(
      'busy',
      say`A file of the copy folder has changed while it was written. It is tried again by itself.`,
    ),
};

/** What browsers call an error; empty where it has no name. */
export const errorName = (thrown: unknown): string =>
  typeof thrown === 'object' && thrown !== null && 'name' in thrown ? String(thrown.name) : '';

/** Anything that was thrown while a folder was read or written. */
export function toCopyError(thrown: unknown): ParolaError {
  const name = errorName(thrown);
  return thrown instanceof ParolaError || !Object.hasOwn(told, name) ? toParolaError(thrown) : told[name]();
}

export const notAsWritten = (what: string) =>
  new ParolaError(
    'damaged-file',
    say`What was read back of the copy of ${what} is not what was written. It is copied again by itself; if this comes again, the disk of the copy folder is not to be relied on.`,
  );
