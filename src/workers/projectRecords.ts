import { manifestVersion, type Manifest } from '@/core/formats/projectManifest';
import { sourcesOf } from '@/core/timeline/timeline';
import { plainTimeline, type PlainTimeline } from '@/core/timeline/stored';
import { sourcesOfStep, type Step } from '@/core/timeline/history';
import { checksOfProject } from '@/storage/checks';
import { allOf, database } from '@/storage/database';
import { loadProject } from '@/storage/projects';
import type { PartRecord, ProjectRecord, SourceRecord } from '@/storage/schema';
import { sourcesOfProject } from '@/storage/sources';
import { partToday } from '@/storage/upgrade';

type PartWithHistory = Omit<PartRecord, 'timeline'> & { timeline: PlainTimeline; history: Step[] };

/**
 * A project with all that can be heard or undone in it: a take that was deleted stays in for as long as a
 * sheet or a step names it.
 */
export async function projectToSave(projectId: string) {
  const { project, parts: records } = await loadProject(projectId);
  const db = await database();
  const parts: PartWithHistory[] = [];
  const used = new Set<string>();
  for (const part of records) {
    const steps = (await db.getAll('history', allOf(part.id))).map(({ step }) => step);
    const { timeline, history, historyAt } = partToday(part, steps);
    for (const source of sourcesOf(timeline)) used.add(source);
    for (const step of history) for (const source of sourcesOfStep(step)) used.add(source);
    parts.push({ ...part, timeline: plainTimeline(timeline), history, historyAt });
  }
  const sources = (await sourcesOfProject(projectId)).filter(
    ({ id, state, deleted, role }) =>
      used.has(id) || (state === 'kept' && !deleted && role !== 'far' && role !== 'line'),
  );
  return { project, parts, sources };
}

export async function manifestOf(
  project: ProjectRecord,
  parts: readonly PartWithHistory[],
  sources: readonly SourceRecord[],
): Promise<Manifest> {
  return {
    format: 'parola-project',
    version: manifestVersion,
    project: {
      name: project.name,
      spec: project.spec,
      rateHz: project.rateHz,
      createdAt: project.createdAt,
      joinMs: project.joinMs,
      routes: project.routes,
      recording: project.recording,
      levels: project.levels,
      further: project.further,
      split: project.split,
      names: project.names,
    },
    parts: parts.map(
      ({ id, name, script, currentLine, caret, historyAt, timeline, tones, refused, history }) => ({
        tones,
        refused,
        id,
        name,
        script,
        currentLine,
        caret,
        historyAt,
        timeline,
        history,
      }),
    ),
    sources: sources.map(
      ({
        projectIds: _projects,
        state: _state,
        placement: _placed,
        own: _own,
        line: _line,
        far: _far,
        role,
        ...source
      }) => ({ ...source, ...(role && { role: role === 'far' || role === 'line' ? 'take' : role }) }),
    ),
    checks: (await checksOfProject(project.id)).map(({ id: _id, projectId: _project, ...check }) => check),
  };
}
