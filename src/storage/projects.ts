import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { sourcesOfStep } from '@/core/timeline/history';
import { emptyTimeline, sourcesOf } from '@/core/timeline/timeline';
import { loadTimeline, storeTimeline } from '@/core/timeline/stored';
import { builtInSpecs } from '@/core/specs/builtIn';
import { upgradeSpec, type Spec } from '@/core/specs/spec';
import { allOf, database, write, type Transaction } from './database';
import type { PartRecord, ProjectRecord, ScriptLine } from './schema';
import { letGo, sourceIn } from './sources';

export interface ProjectSummary {
  project: ProjectRecord;
  parts: number;
  /** Recorded and heard, in seconds, over all parts. */
  heardSeconds: number;
  /** Cues of all parts, and those of them that are done. */
  cues: { done: number; all: number };
  /** The record cannot be read: the project cannot be opened. */
  broken: boolean;
}

export const newId = () => crypto.randomUUID();

export function newPart(
  projectId: string,
  name: string,
  script: ScriptLine[] = [],
  timeline = emptyTimeline(['Voice']),
): PartRecord {
  return {
    id: newId(),
    projectId,
    name,
    script,
    currentLine: 0,
    timeline: storeTimeline(timeline),
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

/**
 * All projects, the one opened last first. One whose record cannot be read is listed as such, and takes no
 * other with it.
 */
export async function listProjects(): Promise<ProjectSummary[]> {
  const db = await database();
  const summaries: ProjectSummary[] = [];
  const projects = await db.getAll('projects');
  const lengths = new Map<string, { parts: number; frames: number; done: number; cues: number }>();
  // One part after another: the sheets of all projects together can be large.
  for (let part = await db.transaction('parts').store.openCursor(); part; part = await part.continue()) {
    const { projectId, heardFrames, timeline } = part.value;
    const { parts, frames, done, cues } = lengths.get(projectId) ?? nothingOfIt;
    const own = timeline?.cueSheet?.cues ?? [];
    lengths.set(projectId, {
      parts: parts + 1,
      frames: frames + (Number(heardFrames) || 0),
      done: done + own.filter((cue) => cue.done).length,
      cues: cues + own.length,
    });
  }
  for (const project of projects) {
    const { parts, frames, done, cues } = lengths.get(project.id) ?? nothingOfIt;
    const readable = readableProject(project);
    summaries.push({
      project: readable ?? unreadable(project),
      parts,
      heardSeconds: readable ? frames / project.rateHz : 0,
      cues: { done, all: cues },
      broken: readable === null,
    });
  }
  return summaries.sort((a, b) => b.project.openedAt - a.project.openedAt);
}

const nothingOfIt = { parts: 0, frames: 0, done: 0, cues: 0 };

const isTime = (value: unknown) => typeof value === 'number' && !Number.isNaN(new Date(value).getTime());

/** A stored project, or null where its record is not one. */
function readableProject(project: ProjectRecord): ProjectRecord | null {
  try {
    const { name, rateHz, createdAt, openedAt, partIds } = project;
    const fine =
      typeof name === 'string' &&
      rateHz > 0 &&
      isTime(createdAt) &&
      isTime(openedAt) &&
      Array.isArray(partIds);
    return fine ? upgraded(project) : null;
  } catch {
    return null;
  }
}

const unreadable = ({ id, name }: ProjectRecord): ProjectRecord => ({
  id,
  name: typeof name === 'string' && name ? name : 'A project without a name',
  spec: upgradeSpec(builtInSpecs[0]),
  rateHz: 48_000,
  createdAt: 0,
  openedAt: 0,
  partIds: [],
  openPartId: null,
  input: null,
  joinMs: 10,
});

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
  if (!project) throw new ParolaError('not-found', say`This project is not on this machine any more.`);
  const parts = new Map((await db.getAllFromIndex('parts', 'project', id)).map((part) => [part.id, part]));
  const readable = readableProject(project);
  if (!readable)
    throw new ParolaError(
      'damaged-file',
      say`What is stored of this project cannot be read. Its recordings are still there; open a project file of it, if you have saved one.`,
    );
  return { project: readable, parts: readable.partIds.flatMap((partId) => parts.get(partId) ?? []) };
}

/** Changes a project's own fields. Throws `not-found` when it has been deleted meanwhile. */
export async function updateProject(id: string, changes: Partial<ProjectRecord>): Promise<ProjectRecord> {
  return write(['projects'], async (tx) => {
    const store = tx.objectStore('projects');
    const project = await store.get(id);
    if (!project) throw new ParolaError('not-found', say`This project is not on this machine any more.`);
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
  const partOf = new Map(parts.map((part, index) => [part.id, copies[index].id]));
  await write(['projects', 'parts', 'sources'], async (tx) => {
    await tx.objectStore('projects').add({ ...copy, partIds: copies.map((part) => part.id) });
    for (const part of copies) await tx.objectStore('parts').add(part);
    const sources = tx.objectStore('sources');
    for (const source of await sources.index('project').getAll(id)) {
      const { partId, take, name: takeName, note, circled, deleted } = sourceIn(id, source);
      const told = { partId: partOf.get(partId) ?? partId, take, name: takeName, note, circled, deleted };
      await sources.put({
        ...source,
        projectIds: [...source.projectIds, copy.id],
        own: { ...source.own, [copy.id]: told },
      });
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
      await letGo(tx, source, id);
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
    if (!project) throw new ParolaError('not-found', say`This project is not on this machine any more.`);
    // Done twice it is the same as once: a write that seemed to fail is tried again.
    await tx.objectStore('parts').put(part);
    const others = project.partIds.filter((id) => id !== part.id);
    await projects.put({ ...project, partIds: [...others, part.id] });
  });
}

/** Deletes a part and its history, and the recordings that were made in it and that no other part uses. */
export async function deletePart(part: PartRecord): Promise<void> {
  await write(['projects', 'parts', 'history', 'sources', 'blocks', 'peaks'], async (tx) => {
    const projects = tx.objectStore('projects');
    const project = await projects.get(part.projectId);
    if (project) await projects.put({ ...project, partIds: project.partIds.filter((id) => id !== part.id) });
    await deletePartRecords(tx, part.id);
    // A part only holds on to recordings of its own project.
    const others = await tx.objectStore('parts').index('project').getAll(part.projectId);
    const used = new Set(others.flatMap((other) => [...sourcesOf(loadTimeline(other.timeline))]));
    // Passages go from part to part: what undo brings back elsewhere stays as well.
    for (const other of others)
      for (const { step } of await tx.objectStore('history').getAll(allOf(other.id)))
        for (const source of sourcesOfStep(step)) used.add(source);
    const sources = tx.objectStore('sources');
    for (const source of await sources.index('project').getAll(part.projectId)) {
      const own = sourceIn(part.projectId, source).partId === part.id;
      if (own && !used.has(source.id)) await letGo(tx, source, part.projectId);
    }
  });
}
