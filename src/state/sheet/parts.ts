import { say } from '@/texts/say';
import { bedsWithoutSound, mixToBeginWith } from '@/core/templates/beginning';
import { nextNumber, partName } from '@/core/templates/template';
import type { Mix } from '@/core/timeline/mix';
import { loadTimeline } from '@/core/timeline/stored';
import { emptyStaves, type Track } from '@/core/timeline/timeline';
import { addPart as storePart, deletePart, newId, newPart } from '@/storage/projects';
import { save, saved } from '../page/saving';
import { useProject } from '../project/openProject';
import { rememberOpenPart } from '../project/settings';
import { closePart, openPart, usePart } from './part';

/** Opens a part of the project. What was done to the one before is stored, or waits in its order. */
export async function selectPart(id: string): Promise<void> {
  if (usePart.getState().id === id) return;
  await saved();
  const part = useProject.getState().parts.find((candidate) => candidate.id === id);
  if (!part) return;
  await openPart(part);
  rememberOpenPart(id);
}

/**
 * Adds an empty part with these staves at the end, and opens it. Returns its id, or null when it could not be
 * stored.
 */
export async function addPart(
  name: string,
  open = true,
  staves: readonly Omit<Track, 'table'>[] = [{ id: 'track-1', name: say`Voice` }],
  mix?: Mix,
): Promise<string | null> {
  const { project, parts, readOnly } = useProject.getState();
  if (!project || readOnly) return null;
  const part = newPart(project.id, name, [], { ...emptyStaves(staves), ...(mix && { mix }) });
  useProject.setState({
    parts: [...parts, part],
    project: { ...project, partIds: [...project.partIds, part.id] },
  });
  if (!(await save(() => storePart(part)))) return null;
  if (open) await selectPart(part.id);
  return part.id;
}

/**
 * Adds a part with the tracks, chains and beds of the last, where the project says so; it is called as
 * further parts of the project are, unless it has a name.
 */
export async function addFurtherPart(given = '', open = true): Promise<string | null> {
  const { project, parts } = useProject.getState();
  const further = project?.further ?? say`Part {n}`;
  const names = parts.map((part) => part.name);
  const name = given || partName(further, nextNumber(further, names));
  const last = parts.at(-1);
  if (!last || !project?.further) return addPart(name, open);
  const { tracks, mix } = loadTimeline(last.timeline);
  return addPart(name, open, tracks, mixToBeginWith(mix?.strips ?? [], bedsWithoutSound(mix), newId));
}

/** Deletes a part with its recordings; the part beside it opens. */
export async function removePart(id: string): Promise<void> {
  const { project, parts, readOnly } = useProject.getState();
  const index = parts.findIndex((part) => part.id === id);
  if (!project || readOnly || index < 0) return;
  const rest = parts.filter((part) => part.id !== id);
  const wasOpen = usePart.getState().id === id;
  useProject.setState({ parts: rest, project: { ...project, partIds: rest.map((part) => part.id) } });
  await save(() => deletePart(parts[index]));
  const next = rest[Math.min(index, rest.length - 1)];
  if (wasOpen) {
    closePart();
    if (next) await selectPart(next.id);
  }
}
