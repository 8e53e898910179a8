import { say } from '@/texts/say';
import { create } from 'zustand';
import { ParolaError } from '@/core/base/errors';
import { partName } from '@/core/templates/template';
import type { Spec } from '@/core/specs/spec';
import { storeBackup } from '@/storage/backups';
import { forgetCopy } from '@/storage/copies';
import { lockProject } from '@/storage/lock';
import * as storage from '@/storage/projects';
import type { ProjectSummary } from '@/storage/projects';
import { exportClient } from '../page/jobs';

export type { ProjectSummary } from '@/storage/projects';

/** All projects on this machine, the one opened last first; null until they have been read. */
export const useProjects = create<{ list: ProjectSummary[] | null }>(() => ({ list: null }));

export async function readProjects(): Promise<void> {
  useProjects.setState({ list: await storage.listProjects() });
}

/** What was left by an opening that was cut off takes room until it is swept; nobody waits for that. */
export const sweepLeftovers = (): void => void exportClient.run('sweep', null).catch(() => undefined);

/** Creates a project with one empty part, or with others, and returns its id. */
export async function createProject(
  name: string,
  spec: Spec,
  rateHz: number,
  names: readonly string[] = [partName(say`Part {n}`, 1)],
): Promise<string> {
  const project = storage.newProject(name, spec, rateHz);
  const parts = names.map((part) => storage.newPart(project.id, part));
  await storage.createProject({ ...project, ...(parts.length > 0 && { openPartId: parts[0].id }) }, parts);
  await readProjects();
  return project.id;
}

export async function renameProject(id: string, name: string): Promise<void> {
  await storage.updateProject(id, { name });
  await readProjects();
}

export async function duplicateProject(id: string, name: string): Promise<void> {
  await storage.duplicateProject(id, name);
  await readProjects();
}

/**
 * Throws `read-only` while another tab has the project open: a running recording must not lose its ground.
 */
export async function deleteProject(id: string): Promise<void> {
  const release = await lockProject(id);
  if (!release) {
    throw new ParolaError(
      'read-only',
      say`This project is open in another tab. Close it there, then delete it.`,
    );
  }
  try {
    await storage.deleteProject(id);
    await forgetCopy(id);
    await storeBackup(id, undefined);
  } finally {
    release();
  }
  await readProjects();
}
