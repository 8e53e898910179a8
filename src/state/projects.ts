import { create } from 'zustand';
import type { Spec } from '@/core/specs/spec';
import * as storage from '@/storage/projects';
import type { ProjectSummary } from '@/storage/projects';
export type { ProjectSummary } from '@/storage/projects';
import { updateProject } from '@/storage/projects';

/** All projects on this machine, the one opened last first; null until they have been read. */
export const useProjects = create<{ list: ProjectSummary[] | null }>(() => ({ list: null }));

export async function readProjects(): Promise<void> {
  useProjects.setState({ list: await storage.listProjects() });
}

/** Creates a project with one empty part and returns its id. */
export async function createProject(name: string, spec: Spec, rateHz: number): Promise<string> {
  const project = storage.newProject(name, spec, rateHz);
  const part = storage.newPart(project.id, 'Part 1');
  await storage.createProject({ ...project, openPartId: part.id }, [part]);
  await readProjects();
  return project.id;
}

export async function renameProject(id: string, name: string): Promise<void> {
  await updateProject(id, { name });
  await readProjects();
}

export async function duplicateProject(id: string, name: string): Promise<void> {
  await storage.duplicateProject(id, name);
  await readProjects();
}

export async function deleteProject(id: string): Promise<void> {
  await storage.deleteProject(id);
  await readProjects();
}
