import { create } from 'zustand';
import type { Recovered } from '@/storage/recovery';
import type { PartRecord, ProjectRecord, SourceRecord } from '@/storage/schema';

/** The open project. Parts are as stored; the open part's timeline and history live in `usePart`. */
interface Session {
  status: 'closed' | 'opening' | 'open' | 'failed';
  error: string | null;
  project: ProjectRecord | null;
  parts: PartRecord[];
  sources: ReadonlyMap<string, SourceRecord>;
  /** Another tab edits this project. */
  readOnly: boolean;
  /** Read-only, and the other tab has let go meanwhile. */
  canTakeOver: boolean;
  recovered: Recovered[];
}

export const closedSession: Session = {
  status: 'closed',
  error: null,
  project: null,
  parts: [],
  sources: new Map(),
  readOnly: false,
  canTakeOver: false,
  recovered: [],
};

export const useSession = create<Session>(() => closedSession);

export const rateOfProject = () => useSession.getState().project?.rateHz ?? 48_000;
export const isReadOnly = () => useSession.getState().readOnly;
export const sourceList = () => [...useSession.getState().sources.values()];

/** Keeps the list of parts in step with what was stored elsewhere. */
export function rememberPart(id: string, changes: Partial<PartRecord>): void {
  useSession.setState(({ parts }) => ({
    parts: parts.map((part) => (part.id === id ? { ...part, ...changes } : part)),
  }));
}

export function rememberSource(source: SourceRecord): void {
  useSession.setState(({ sources }) => ({ sources: new Map(sources).set(source.id, source) }));
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
