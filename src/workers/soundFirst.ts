/**
 * How many sounds are waited for, counted in memory that the page shares with its workers: whoever works in
 * the background stands still for them. On two cores a change of what is heard would otherwise wait behind
 * what is measured and drawn.
 */
export type SoundWaits = Int32Array<SharedArrayBuffer>;

/** Nothing stands still for longer: a sound that does not come holds up nothing. */
const longestMs = 400;

let shared: SoundWaits | null = null;

/** The page's counter; null where memory cannot be shared. */
export function soundWaits(): SoundWaits | null {
  if (!globalThis.crossOriginIsolated) return null;
  return (shared ??= new Int32Array(new SharedArrayBuffer(4)));
}

/** Counts as waited for until it is there, or has failed. */
export async function soundFirst<T>(work: () => Promise<T>, waits = soundWaits()): Promise<T> {
  if (!waits) return work();
  Atomics.add(waits, 0, 1);
  try {
    return await work();
  } finally {
    Atomics.sub(waits, 0, 1);
    Atomics.notify(waits, 0);
  }
}

/** In a worker, between two pieces of work: stands still while a sound is waited for. */
export function giveWay(waits: SoundWaits | null): void {
  if (!waits) return;
  const until = performance.now() + longestMs;
  for (;;) {
    const count = Atomics.load(waits, 0);
    const leftMs = until - performance.now();
    if (count <= 0 || leftMs <= 0) return;
    Atomics.wait(waits, 0, count, leftMs);
  }
}
