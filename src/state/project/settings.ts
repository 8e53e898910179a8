import { defaultCueSettings, type CueSettings } from '@/core/recording/cueSettings';
import { recordDefaults } from '@/core/recording/recordDefaults';
import type { LevelChoice } from '@/core/recording/levelProfiles';
import type { Spec } from '@/core/specs/spec';
import { updatePart } from '@/storage/parts';
import { updateProject } from '@/storage/projects';
import type { InputChoice, PartRecord, ProjectRecord, RecordSettings, Route } from '@/storage/schema';
import { save, savePassing } from '../page/saving';
import { isReadOnly, rememberPart, useProject } from './openProject';

/** Changes fields of the open project, in memory and on disk. */
export function changeProject(changes: Partial<ProjectRecord>): void {
  const { project, readOnly } = useProject.getState();
  if (!project || readOnly) return;
  useProject.setState({ project: { ...project, ...changes } });
  void save(() => updateProject(project.id, changes));
}

/** Which part is open is remembered where there is room for it. */
export function rememberOpenPart(openPartId: string): void {
  const { project, readOnly } = useProject.getState();
  if (!project || readOnly) return;
  useProject.setState({ project: { ...project, openPartId } });
  void savePassing(() => updateProject(project.id, { openPartId }));
}

export const renameProject = (name: string) => changeProject({ name });
export const setSpec = (spec: Spec) => changeProject({ spec });
export const setInputChoice = (input: InputChoice) => changeProject({ input });
export const setRoutes = (routes: Route[]) => changeProject({ routes });
export const setLevels = (levels: LevelChoice) => changeProject({ levels });
export const setRecordSettings = (changes: Partial<RecordSettings>) =>
  changeProject({ recording: { ...recordSettings(), ...changes } });

const defaultRecordSettings: RecordSettings = { ...recordDefaults, cue: defaultCueSettings };

/** How Record works in the open project. */
export const recordSettings = (): RecordSettings => ({
  ...defaultRecordSettings,
  ...useProject.getState().project?.recording,
});

/** How cues are recorded in the open project. */
export const cueSettings = (): CueSettings => ({ ...defaultCueSettings, ...recordSettings().cue });

export const setCueSettings = (changes: Partial<CueSettings>) =>
  setRecordSettings({ cue: { ...cueSettings(), ...changes } });

export const dismissRecovered = () => useProject.setState({ recovered: [] });

export function reorderParts(ids: string[]): void {
  const { parts } = useProject.getState();
  useProject.setState({ parts: ids.flatMap((id) => parts.find((part) => part.id === id) ?? []) });
  changeProject({ partIds: ids });
}

/** Changes what a part stores beside its timeline, in memory and on disk. */
export function changePart(
  id: string,
  changes: Partial<Pick<PartRecord, 'name' | 'script' | 'currentLine' | 'caret' | 'tones' | 'refused'>>,
): void {
  rememberPart(id, changes);
  if (!isReadOnly()) void save(() => updatePart(id, changes));
}
