/**
 * One tab edits a project at a time. Resolves to a release function, or to null when another tab has it. The
 * lock ends by itself when the tab is closed or killed (Web Locks API).
 */
export function lockProject(projectId: string): Promise<(() => void) | null> {
  return new Promise((resolve, reject) => {
    navigator.locks
      .request(`parola-project-${projectId}`, { ifAvailable: true }, (lock) => {
        if (!lock) {
          resolve(null);
          return undefined;
        }
        return new Promise<void>((release) => resolve(() => release()));
      })
      .catch(reject);
  });
}

/** Resolves once no other tab has the project any more. */
export async function whenUnlocked(projectId: string, signal: AbortSignal): Promise<void> {
  await navigator.locks.request(`parola-project-${projectId}`, { signal }, () => undefined);
}

const opening = 'parola-import';

/**
 * Reads a project into storage, from a file or the demo: one at a time on this machine. Until it stands, its
 * audio belongs to nobody; whoever sweeps up what was left by an opening that was cut off waits for the end.
 */
export const whileOpening = <T>(work: () => Promise<T>): Promise<T> => navigator.locks.request(opening, work);

/** Does `work` unless a project is being read into storage, here or in another tab. */
export async function unlessOpening(work: () => Promise<void>): Promise<void> {
  await navigator.locks.request(opening, { ifAvailable: true }, async (lock) => {
    if (lock) await work();
  });
}
