import { say } from '@/texts/say';
import { create } from 'zustand';
import { ParolaError } from '@/core/base/errors';
import { lockProject } from '@/storage/lock';
import * as storage from '@/storage/space';
import type { BrowserSpace, UnusedAudio } from '@/storage/space';
import { notify } from '../page/notices';

export type { UnusedAudio } from '@/storage/space';

interface Space {
  /** Null until the browser has been asked. */
  browser: BrowserSpace | null;
  /** Bytes of recordings, by project. */
  projects: ReadonlyMap<string, number>;
}

export const useSpace = create<Space>(() => ({ browser: null, projects: new Map() }));

/** Asks anew what is used and free. What the browser does not tell is not shown. */
export async function lookAtSpace(): Promise<void> {
  const [browser, projects] = await Promise.all([
    storage.browserSpace().catch(() => null),
    storage.bytesByProject().catch(() => new Map<string, number>()),
  ]);
  useSpace.setState({ browser, projects });
}

/** Asks the browser to keep what is stored; says what it answered where somebody wants to know. */
export async function askToKeep(told = true): Promise<void> {
  const granted = await storage.askToPersist().catch(() => false);
  await lookAtSpace();
  if (!told) return;
  if (granted) notify('success', say`The browser keeps what is stored here until you remove it yourself.`);
  else
    notify(
      'warning',
      say`The browser did not agree. Most do once Parola is installed as an application, or is used often. Until then keep a copy in a folder, or project files.`,
      'kept',
    );
}

/** What no sheet of a project has. */
export const unusedAudio = (projectId: string): Promise<UnusedAudio[]> => storage.unusedAudio(projectId);

/** Removes recordings that no sheet has, for good. Throws `read-only` while the project is open somewhere. */
export async function removeUnused(projectId: string, ids: readonly string[]): Promise<void> {
  const release = await lockProject(projectId);
  if (!release)
    throw new ParolaError(
      'read-only',
      say`This project is open in another tab. Close it there, then remove what is not used.`,
    );
  try {
    await storage.removeUnused(projectId, new Set(ids));
  } finally {
    release();
  }
  await lookAtSpace();
}
