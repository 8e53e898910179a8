import { ParolaError } from './errors';

export const sleep = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/**
 * The promise's outcome, or a rejection with ParolaError `no-answer` when there is none after so many
 * milliseconds: no wait for a worker, a device or storage is without an end. What was waited for may still
 * happen later.
 */
export function within<T>(promise: Promise<T>, ms: number, message: string): Promise<T> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new ParolaError('no-answer', message)), ms);
    promise.then(resolve, reject).finally(() => clearTimeout(timer));
  });
}
