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
