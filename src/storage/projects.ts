import { ParolaError } from '@/core/base/errors';
import { sourcesOfStep } from '@/core/timeline/history';
import { emptyTimeline, sourcesOf, loadTimeline, storeTimeline } from '@/core/timeline/timeline';
import { upgradeSpec, type Spec } from '@/core/specs/spec';
import { allOf, database, write, type Transaction } from './database';
import type { PartRecord, ProjectRecord, ScriptLine } from './schema';
import { deleteSource } from './sources';

export interface ProjectSummary {
  project: ProjectRecord;
  parts: number;
  /** Recorded and heard, in seconds, over all parts. */
  heardSeconds: number;
}

export const newId = () => crypto.randomUUID();

export function newPart(
  projectId: string,
  name: string,
  script: ScriptLine[] = [],
  trackNames = ['Voice'],
): PartRecord {
  return {
    id: newId(),
    projectId,
    name,
    script,
    currentLine: 0,
    timeline: storeTimeline(emptyTimeline(trackNames)),
    historyAt: 0,
    caret: 0,
    heardFrames: 0,
  };
}

export function newProject(name: string, spec: Spec, rateHz: number): ProjectRecord {
  const now = Date.now();
  return {
    id: newId(),
    name,
    spec,
    rateHz,
    createdAt: now,
    openedAt: now,
    partIds: [],
    openPartId: null,
    input: null,
    joinMs: 10,
  };
}

/** A project as stored by an earlier version, with what its spec lacks. */
const upgraded = (project: ProjectRecord): ProjectRecord => ({ ...project, spec: upgradeSpec(project.spec) });

export async function listProjects(): Promise<ProjectSummary[]> {
  const db = await database();
  const [projects, parts] = await Promise.all([db.getAll('projects'), db.getAll('parts')]);
  const summaries = projects.map((project) => {
    const own = parts.filter((part) => part.projectId === project.id);
    const frames = own.reduce((sum, part) => sum + part.heardFrames, 0);
    return { project: upgraded(project), parts: own.length, heardSeconds: frames / project.rateHz };
  });
  return summaries.sort((a, b) => b.project.openedAt - a.project.openedAt);
}

/** Stores a new project with its parts, in one transaction. */
export async function createProject(project: ProjectRecord, parts: readonly PartRecord[]): Promise<void> {
  await write(['projects', 'parts'], async (tx) => {
    await tx.objectStore('projects').add({ ...project, partIds: parts.map((part) => part.id) });
    for (const part of parts) await tx.objectStore('parts').add(part);
  });
}

export async function loadProject(id: string): Promise<{ project: ProjectRecord; parts: PartRecord[] }> {
  const db = await database();
  const project = await db.get('projects', id);
  if (!project) throw new ParolaError('not-found', 'This project is not on this machine any more.');
  const parts = new Map((await db.getAllFromIndex('parts', 'project', id)).map((part) => [part.id, part]));
  return { project: upgraded(project), parts: project.partIds.flatMap((partId) => parts.get(partId) ?? []) };
}

/** Changes a project's own fields. Throws `not-found` when it has been deleted meanwhile. */
export async function updateProject(id: string, changes: Partial<ProjectRecord>): Promise<ProjectRecord> {
  return write(['projects'], async (tx) => {
    const store = tx.objectStore('projects');
    const project = await store.get(id);
    if (!project) throw new ParolaError('not-found', 'This project is not on this machine any more.');
    const updated = upgraded({ ...project, ...changes });
    await store.put(updated);
    return updated;
  });
}

/** A copy that shares the recorded audio, which never changes; the copy starts without an undo history. */
export async function duplicateProject(id: string, name: string): Promise<ProjectRecord> {
  const { project, parts } = await loadProject(id);
  const copy: ProjectRecord = {
    ...project,
    id: newId(),
    name,
    createdAt: Date.now(),
    openedAt: Date.now(),
    openPartId: null,
  };
  const copies = parts.map((part) => ({ ...part, id: newId(), projectId: copy.id, historyAt: 0 }));
  await write(['projects', 'parts', 'sources'], async (tx) => {
    await tx.objectStore('projects').add({ ...copy, partIds: copies.map((part) => part.id) });
    for (const part of copies) await tx.objectStore('parts').add(part);
    const sources = tx.objectStore('sources');
    for (const source of await sources.index('project').getAll(id)) {
      await sources.put({ ...source, projectIds: [...source.projectIds, copy.id] });
    }
  });
  return copy;
}

/** Deletes a project, its parts and history, and the audio no other project uses. */
export async function deleteProject(id: string): Promise<void> {
  const everything = ['projects', 'parts', 'history', 'sources', 'blocks', 'peaks', 'checks'] as const;
  await write([...everything], async (tx) => {
    const parts = tx.objectStore('parts');
    for (const partId of await parts.index('project').getAllKeys(id)) await deletePartRecords(tx, partId);
    const sources = tx.objectStore('sources');
    for (const source of await sources.index('project').getAll(id)) {
      const others = source.projectIds.filter((projectId) => projectId !== id);
      if (others.length > 0) await sources.put({ ...source, projectIds: others });
      else await deleteSource(tx, source.id);
    }
    const checks = tx.objectStore('checks');
    for (const key of await checks.index('project').getAllKeys(id)) await checks.delete(key);
    await tx.objectStore('projects').delete(id);
  });
}

async function deletePartRecords(tx: Transaction, partId: string) {
  await tx.objectStore('parts').delete(partId);
  await tx.objectStore('history').delete(allOf(partId));
}

export async function addPart(part: PartRecord): Promise<void> {
  await write(['projects', 'parts'], async (tx) => {
    const projects = tx.objectStore('projects');
    const project = await projects.get(part.projectId);
    if (!project) throw new ParolaError('not-found', 'This project is not on this machine any more.');
    await tx.objectStore('parts').add(part);
    await projects.put({ ...project, partIds: [...project.partIds, part.id] });
  });
}

/** Deletes a part and its history, and the recordings that were made in it and that no other part uses. */
export async function deletePart(part: PartRecord): Promise<void> {
  await write(['projects', 'parts', 'history', 'sources', 'blocks', 'peaks'], async (tx) => {
    const projects = tx.objectStore('projects');
    const project = await projects.get(part.projectId);
    if (project) await projects.put({ ...project, partIds: project.partIds.filter((id) => id !== part.id) });
    await deletePartRecords(tx, part.id);
    const others = await tx.objectStore('parts').getAll();
    const used = new Set(others.flatMap((other) => [...sourcesOf(loadTimeline(other.timeline))]));
    // Passages go from part to part: what undo brings back elsewhere stays as well.
    for (const other of others)
      for (const { step } of await tx.objectStore('history').getAll(allOf(other.id)))
        for (const source of sourcesOfStep(step)) used.add(source);
    const sources = tx.objectStore('sources');
    for (const source of await sources.index('project').getAll(part.projectId)) {
      const alone = source.projectIds.length === 1 && source.partId === part.id;
      if (alone && !used.has(source.id)) await deleteSource(tx, source.id);
    }
  });
}
