import { say } from '../../texts/say';
/**
 * Errors the user can act on. `code` is stable and crosses worker borders; `message` is a sentence for a
 * voice artist that says what is wrong and what to do.
 */
export const errorCodes = [
  'busy',
  'cancelled',
  'damaged-file',
  'device-lost',
  'exists',
  'no-answer',
  'no-device',
  'not-audio',
  'not-found',
  'permission-denied',
  'read-only',
  'storage-full',
  'too-large',
  'unknown-spec',
  'unsupported',
  'worker-died',
  'internal',
] as const;
export type ErrorCode = (typeof errorCodes)[number];

export class ParolaError extends Error {
  constructor(
    readonly code: ErrorCode,
    message: string,
  ) {
    super(message);
    this.name = 'ParolaError';
  }
}

export const cancelled = () => new ParolaError('cancelled', say`Cancelled.`);

export const storageFull = () =>
  new ParolaError(
    'storage-full',
    say`The disk space this browser allows is used up. Delete a project or free disk space, then go on.`,
  );

/** Anything thrown, as a ParolaError: browsers report a full disk as QuotaExceededError. */
export function toParolaError(thrown: unknown): ParolaError {
  if (thrown instanceof ParolaError) return thrown;
  const { name, message } = thrown instanceof Error ? thrown : { name: '', message: String(thrown) };
  if (name === 'AbortError') return cancelled();
  if (name === 'QuotaExceededError' || /quota/i.test(message)) {
    return storageFull();
  }
  return new ParolaError('internal', message || say`Something failed without saying why.`);
}

/** Broken invariants are programming errors, never shown as advice. */
export function assert(condition: unknown, what: string): asserts condition {
  if (!condition) throw new Error(`Invariant broken: ${what}`);
}

/** The default branch of a switch over a union: does not compile while a case is missing. */
export function exhaustive(never: never): never {
  throw new Error(`Unhandled case: ${JSON.stringify(never)}`);
}
