import { noise } from '@/core/testing/signals';
import type { Step } from '@/core/timeline/history';
import { loadTimeline, plainTimeline } from '@/core/timeline/stored';
import { allOf, database } from '@/storage/database';
import { loadProject } from '@/storage/projects';
import { sourcesOfProject } from '@/storage/sources';
import { useProject } from '../project/openProject';
import { copySelection, pasteAtCaret, strikeSelection } from '../sheet/editing';
import { addMark } from '../sheet/marks';
import { closeUpAll, edit, redo, select, setCaret, undo, usePart } from '../sheet/part';
import { copyToNewPart, moveToPart, splitAtPartMarks } from '../sheet/partEdits';
import { selectPart } from '../sheet/parts';
import { changeTake, deleteTake } from '../recording/takes';
import { recordAudio } from './fixture';

/** All that a project is, with its recordings called by their names: ids are given anew in a file. */
export async function contents(projectId: string) {
  const { project, parts } = await loadProject(projectId);
  const db = await database();
  const histories = await Promise.all(parts.map(({ id }) => db.getAll('history', allOf(id))));
  const used = JSON.stringify([parts, histories]);
  const sources = (await sourcesOfProject(projectId)).filter(
    ({ id, deleted }) => !deleted || used.includes(id),
  );
  const number = new Map(parts.map(({ id }, index) => [id, `part ${index}`]));
  const names = new Map(sources.map(({ id, name }) => [id, name]));
  const known = (value: unknown): unknown =>
    JSON.parse(JSON.stringify(value), (key, inside: unknown) => {
      if ((key === 'source' || key === 'id') && typeof inside === 'string')
        return names.get(inside) ?? inside;
      // Nothing looks up the place of a recording that is gone.
      if (key === 'places' && Array.isArray(inside))
        return inside.filter((place) => [...names.values()].includes((place as { source: string }).source));
      return inside;
    });
  return {
    name: project.name,
    rateHz: project.rateHz,
    parts: parts.map(({ name, script, timeline, historyAt, caret, heardFrames }, index) => ({
      name,
      script,
      timeline: known(plainTimeline(loadTimeline(timeline))),
      historyAt,
      caret,
      heardFrames,
      steps: histories[index].map(({ step }: { step: Step }) => step.label),
    })),
    takes: sources
      .map(({ partId, name, take, circled, note, deleted, frames, channels }) => ({
        part: number.get(partId) ?? null,
        ...{ name, take, circled, note, deleted, frames, channels },
      }))
      .sort((a, b) => (a.name < b.name ? -1 : 1)),
  };
}

/** Everything that takes recordings from one place to another, in any order. */
export async function randomWork(random: () => number): Promise<void> {
  const upTo = (limit: number) => Math.floor(random() * limit);
  const parts = () => useProject.getState().parts;
  const end = () => loadTimeline({ ...openStored() }).tracks[0].table.frames;
  const openStored = () =>
    parts().find(({ id }) => id === usePart.getState().id)?.timeline ?? { tracks: [], marks: [] };
  const someRange = () => {
    const [a, b] = [upTo(end() + 1), upTo(end() + 1)];
    select(a, b);
  };
  let takes = useProject.getState().sources.size;
  for (let turn = 0; turn < 26; turn++) {
    const action = upTo(14);
    someRange();
    if (action === 0 || takes === 0) {
      const source = await recordAudio(noise(4000, -20, turn + 1));
      changeTake(source, { name: `Recording ${takes++}`, note: `turn ${turn}` });
    } else if (action === 1) strikeSelection();
    else if (action === 2) closeUpAll();
    else if (action === 3) copySelection();
    else if (action === 4) {
      setCaret(upTo(end()));
      pasteAtCaret();
    } else if (action === 5) await copyToNewPart();
    else if (action === 6) moveToPart(parts()[upTo(parts().length)].id);
    else if (action === 7) {
      addMark('part', upTo(end()));
      await splitAtPartMarks();
    } else if (action === 8 || action === 13) await undo();
    else if (action === 9) await redo();
    else if (action === 10) await selectPart(parts()[upTo(parts().length)].id);
    else if (action === 11) {
      const all = [...useProject.getState().sources.values()];
      const take = all[upTo(all.length)];
      if (random() < 0.5) deleteTake(take);
      else changeTake(take, { circled: true });
    } else edit('gain', (timeline) => ({ ...timeline }));
  }
}
