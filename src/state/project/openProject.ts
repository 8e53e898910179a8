import { create } from 'zustand';
import { defaultJoinMs, joinLengthsOf, type JoinLengths } from '@/core/timeline/joins';
import type { SoundingSettings } from '@/core/timeline/sounding';
import type { Recovered } from '@/storage/recovery';
import type { PartRecord, ProjectRecord, SourceRecord } from '@/storage/schema';

/** The open project. Parts are as stored; the open part's timeline and history live in `usePart`. */
interface OpenProject {
  status: 'closed' | 'opening' | 'open' | 'failed';
  error: string | null;
  project: ProjectRecord | null;
  parts: PartRecord[];
  sources: ReadonlyMap<string, SourceRecord>;
  /** Another tab edits this project, or it is stored in an earlier form. */
  readOnly: boolean;
  /** It was stored by an earlier version, and what it is today cannot be stored. */
  outdated: boolean;
  /** Read-only, and the other tab has let go meanwhile. */
  canTakeOver: boolean;
  recovered: Recovered[];
}

export const noProject: OpenProject = {
  status: 'closed',
  error: null,
  project: null,
  parts: [],
  sources: new Map(),
  readOnly: false,
  outdated: false,
  canTakeOver: false,
  recovered: [],
};

export const useProject = create<OpenProject>(() => noProject);

export const rateOfProject = () => useProject.getState().project?.rateHz ?? 48_000;
export const isReadOnly = () => useProject.getState().readOnly;
export const sourceList = () => [...useProject.getState().sources.values()];

/** Every source with its length, as workers are told. */
export const sourceLengths = () => sourceList().map(({ id, frames }) => ({ id, frames }));

/** A part as it is stored; undefined when it is not one of the open project's. */
export const partRecord = (id: string | null): PartRecord | undefined =>
  useProject.getState().parts.find((part) => part.id === id);

/** Lengths of joins that were not set by hand. */
export const joinLengths = (): JoinLengths =>
  joinLengthsOf(useProject.getState().project?.joinMs ?? defaultJoinMs, rateOfProject());

/** What belongs to the project of how its parts sound. */
export const soundingSettings = (): SoundingSettings => ({ joins: joinLengths(), rateHz: rateOfProject() });

/** Keeps the list of parts in step with what was stored elsewhere. */
export function rememberPart(id: string, changes: Partial<PartRecord>): void {
  useProject.setState(({ parts }) => ({
    parts: parts.map((part) => (part.id === id ? { ...part, ...changes } : part)),
  }));
}

export function rememberSource(source: SourceRecord): void {
  useProject.setState(({ sources }) => ({ sources: new Map(sources).set(source.id, source) }));
}

export type {
  InputChoice,
  PartRecord,
  ProjectRecord,
  RecordMode,
  RecordSettings,
  ScriptLine,
  SoundCheckRecord,
  SourceRecord,
} from '@/storage/schema';
