import { toParolaError } from '@/core/base/errors';
import type { LevelChoice } from '@/core/recording/levelProfiles';
import type { Spec } from '@/core/specs/spec';
import { lockProject, whenUnlocked } from '@/storage/lock';
import { updatePart } from '@/storage/parts';
import { addPart as storePart, deletePart, loadProject, newPart, updateProject } from '@/storage/projects';
import { purgeDeleted } from '@/storage/purge';
import { recoverTakes } from '@/storage/recovery';
import type {
  InputChoice,
  PartRecord,
  ProjectRecord,
  RecordSettings,
  Route,
  ScriptLine,
} from '@/storage/schema';
import { sourcesOfProject } from '@/storage/sources';
import { closePart, openPart, usePart } from './part';
import { save, saved } from './saving';
import { closedSession, isReadOnly, rememberPart, useSession } from './session';

let release: (() => void) | null = null;
let waiting: AbortController | null = null;
let generation = 0;

/** Opens a project with its lock, brings back takes that were cut off, and opens the part that was open last. */
export async function openProject(id: string): Promise<void> {
  const mine = ++generation;
  useSession.setState({ ...closedSession, status: 'opening' });
  try {
    const lock = await lockProject(id);
    if (mine !== generation) return lock?.();
    release = lock;
    // Asks the browser not to clear this storage when the disk is short; it decides by itself.
    void navigator.storage.persist();
    const recovered = lock ? await recoverTakes(id) : [];
    const opened = lock ? await updateProject(id, { openedAt: Date.now() }) : null;
    const { project, parts } = await loadProject(id);
    const sources = new Map((await sourcesOfProject(id)).map((source) => [source.id, source]));
    if (mine !== generation) return;
    useSession.setState({
      status: 'open',
      project: opened ?? project,
      parts,
      sources,
      readOnly: !lock,
      recovered,
    });
    if (!lock) waitForLock(id);
    const part = parts.find((candidate) => candidate.id === project.openPartId) ?? parts[0];
    if (part) await openPart(part);
  } catch (thrown) {
    if (mine === generation)
      useSession.setState({ ...closedSession, status: 'failed', error: toParolaError(thrown).message });
  }
}

function waitForLock(id: string) {
  waiting = new AbortController();
  whenUnlocked(id, waiting.signal).then(
    () => useSession.setState({ canTakeOver: true }),
    () => undefined,
  );
}

export async function closeProject(): Promise<void> {
  generation++;
  waiting?.abort();
  await saved();
  const { project, readOnly } = useSession.getState();
  // Deleted takes could be brought back until now.
  if (project && !readOnly) await purgeDeleted(project.id).catch(() => undefined);
  closePart();
  release?.();
  release = null;
  useSession.setState(closedSession);
}

function changeProject(changes: Partial<ProjectRecord>) {
  const { project, readOnly } = useSession.getState();
  if (!project || readOnly) return;
  useSession.setState({ project: { ...project, ...changes } });
  void save(() => updateProject(project.id, changes));
}

export const renameProject = (name: string) => changeProject({ name });
export const setSpec = (spec: Spec) => changeProject({ spec });
export const setInputChoice = (input: InputChoice) => changeProject({ input });
export const setRoutes = (routes: Route[]) => changeProject({ routes });
export const setLevels = (levels: LevelChoice) => changeProject({ levels });
export const setRecordSettings = (changes: Partial<RecordSettings>) =>
  changeProject({ recording: { ...recordSettings(), ...changes } });

const defaultRecordSettings: RecordSettings = {
  mode: 'continue',
  runUpSeconds: 5,
  countIn: 'none',
  fixedSeconds: null,
  keepGoing: false,
  patchLength: 'selection',
};

/** How Record works in the open project. */
export const recordSettings = (): RecordSettings => ({
  ...defaultRecordSettings,
  ...useSession.getState().project?.recording,
});

export const dismissRecovered = () => useSession.setState({ recovered: [] });

export async function selectPart(id: string): Promise<void> {
  const part = useSession.getState().parts.find((candidate) => candidate.id === id);
  if (!part || usePart.getState().id === id) return;
  await saved();
  await openPart(part);
  changeProject({ openPartId: id });
}

/** Adds an empty part at the end, and opens it. Returns its id, or null when it could not be stored. */
export async function addPart(name: string, open = true): Promise<string | null> {
  const { project, parts, readOnly } = useSession.getState();
  if (!project || readOnly) return null;
  const part = newPart(project.id, name);
  useSession.setState({
    parts: [...parts, part],
    project: { ...project, partIds: [...project.partIds, part.id] },
  });
  if (!(await save(() => storePart(part)))) return null;
  if (open) await selectPart(part.id);
  return part.id;
}

export function reorderParts(ids: string[]): void {
  const { parts } = useSession.getState();
  useSession.setState({ parts: ids.flatMap((id) => parts.find((part) => part.id === id) ?? []) });
  changeProject({ partIds: ids });
}

/** Deletes a part with its recordings; the part beside it opens. */
export async function removePart(id: string): Promise<void> {
  const { project, parts, readOnly } = useSession.getState();
  const index = parts.findIndex((part) => part.id === id);
  if (!project || readOnly || index < 0) return;
  const rest = parts.filter((part) => part.id !== id);
  const wasOpen = usePart.getState().id === id;
  useSession.setState({ parts: rest, project: { ...project, partIds: rest.map((part) => part.id) } });
  await save(() => deletePart(parts[index]));
  const next = rest[Math.min(index, rest.length - 1)];
  if (wasOpen) {
    closePart();
    if (next) await selectPart(next.id);
  }
}

/** Changes what a part stores beside its timeline, in memory and on disk. */
export function changePart(
  id: string,
  changes: Partial<Pick<PartRecord, 'name' | 'script' | 'currentLine' | 'caret' | 'tones' | 'refused'>>,
): void {
  rememberPart(id, changes);
  if (!isReadOnly()) void save(() => updatePart(id, changes));
}

/** Script lines keep their ids where their text is unchanged, so that what refers to a line still finds it. */
export function withKeptIds(
  before: readonly ScriptLine[],
  texts: readonly string[],
  newId: () => string,
): ScriptLine[] {
  const ids = new Map<string, string[]>();
  for (const { id, text } of before) ids.set(text, [...(ids.get(text) ?? []), id]);
  return texts.map((text) => ({ id: ids.get(text)?.shift() ?? newId(), text }));
}
