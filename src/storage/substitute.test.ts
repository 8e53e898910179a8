import 'fake-indexeddb/auto';
import { findSpec } from '@/core/specs/builtIn';
import { noise } from '@/core/testing/signals';
import { strike } from '@/core/timeline/edits';
import { apply, difference, inverse } from '@/core/timeline/history';
import { loadTimeline, storeTimeline } from '@/core/timeline/stored';
import { appendRecording } from '@/core/timeline/takes';
import { heardFramesOf, sourcesOf } from '@/core/timeline/timeline';
import { storedFrames, writeBlock } from './blocks';
import { historyLength, readStep, saveStep, withTimeline } from './parts';
import { createProject, duplicateProject, loadProject, newPart, newProject } from './projects';
import { purgeDeleted } from './purge';
import type { SourceRecord } from './schema';
import { createSource, recordedOf, sourceRecord, sourcesOfProject } from './sources';
import { replaceSource } from './substitute';

/**
 * A project with a take that came over a line, a strike after it, and what was recorded far away beside it.
 */
async function session() {
  const spec = findSpec('Dry voice');
  if (!spec) throw new Error('no spec');
  const project = newProject('Far', spec, 48_000);
  const part = newPart(project.id, 'One');
  await createProject({ ...project, partIds: [part.id] }, [part]);
  const source = (id: string, more: Partial<SourceRecord> = {}): SourceRecord => ({
    id,
    projectIds: [project.id],
    partId: part.id,
    trackId: 'track-1',
    take: 1,
    name: 'Take 1',
    rateHz: 48_000,
    channels: 1,
    state: 'kept',
    frames: 5000,
    handleFrames: 0,
    startedAt: 1,
    overrunFrames: 0,
    input: '',
    ...more,
  });
  const ids = { line: crypto.randomUUID(), far: crypto.randomUUID(), made: crypto.randomUUID() };
  for (const [id, more] of [
    [ids.line, {}],
    [ids.far, { state: 'arriving', role: 'far' }],
    [ids.made, { state: 'receiving' }],
  ] as const) {
    await createSource(source(id, more));
    await writeBlock(id, 0, [noise(5000, -20, 1)]);
  }
  const empty = loadTimeline(part.timeline);
  const taken = appendRecording(empty, recordedOf(source(ids.line), 5000));
  const struck = strike(taken, { from: 1000, to: 2000 });
  await saveStep(withTimeline(part, taken, 1), { label: 'take', difference: difference(empty, taken) });
  await saveStep(withTimeline(part, struck, 2), { label: 'strike', difference: difference(taken, struck) });
  const replace = () => replaceSource(project.id, ids.line, source(ids.made), [ids.far]);
  return { project, part, ids, replace };
}

const timelineOf = async (projectId: string) =>
  loadTimeline((await loadProject(projectId)).parts[0].timeline);

describe('what was recorded far away takes the place of a take', () => {
  it('in the part and in all of its history, and what it was made of goes', async () => {
    const { project, part, ids, replace } = await session();
    const heard = heardFramesOf(await timelineOf(project.id));
    await replace();
    let timeline = await timelineOf(project.id);
    expect([...sourcesOf(timeline)]).toEqual([ids.made]);
    expect(heardFramesOf(timeline)).toBe(heard);
    for (let seq = (await historyLength(part.id)) - 1; seq >= 0; seq--) {
      const step = await readStep(part.id, seq);
      if (!step) throw new Error('a step is missing');
      timeline = apply(timeline, inverse(step.difference));
    }
    expect(storeTimeline(timeline)).toEqual(part.timeline);
    expect(await sourceRecord(ids.far)).toBeUndefined();
    expect(await storedFrames(ids.far)).toBe(0);
    expect(await sourceRecord(ids.line)).toMatchObject({ role: 'line', deleted: true });
    // The sound of the line goes with the closing of the project, and takes no step with it.
    await purgeDeleted(project.id);
    expect(await sourceRecord(ids.line)).toBeUndefined();
    expect(await storedFrames(ids.line)).toBe(0);
    expect(await historyLength(part.id)).toBe(2);
  });

  it('and leaves a copy of the project as it was', async () => {
    const { project, ids, replace } = await session();
    const copy = await duplicateProject(project.id, 'A copy');
    await replace();
    expect([...sourcesOf(await timelineOf(project.id))]).toEqual([ids.made]);
    expect((await sourcesOfProject(project.id)).map(({ id }) => id)).toEqual([ids.made]);
    const copied = (await sourcesOfProject(copy.id)).find(({ id }) => id === ids.line);
    expect(copied?.role).toBeUndefined();
    expect(copied?.deleted).toBeUndefined();
    expect([...sourcesOf(await timelineOf(copy.id))]).toEqual([ids.line]);
    expect(await storedFrames(ids.line)).toBe(5000);
  });
});
