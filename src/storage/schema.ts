import type { DBSchema } from 'idb';
import type { Step } from '@/core/timeline/history';
import type { StoredTimeline } from '@/core/timeline/timeline';
import type { Spec } from '@/core/specs/spec';

export interface ScriptLine {
  id: string;
  text: string;
}

/** Which input the user chose; nothing records before one is chosen. */
export type InputChoice = { kind: 'reader' } | { kind: 'microphone'; deviceId: string; label: string };

export interface ProjectRecord {
  id: string;
  name: string;
  spec: Spec;
  rateHz: number;
  createdAt: number;
  openedAt: number;
  /** In the order of the parts. */
  partIds: string[];
  openPartId: string | null;
  input: InputChoice | null;
  joinMs: number;
}

export interface PartRecord {
  id: string;
  projectId: string;
  name: string;
  script: ScriptLine[];
  /** Index of the script line being read. */
  currentLine: number;
  timeline: StoredTimeline;
  /** How many steps of the history are applied; later ones can be redone. */
  historyAt: number;
  /** Sheet frame of the caret. */
  caret: number;
  heardFrames: number;
}

export interface HistoryRecord {
  partId: string;
  seq: number;
  step: Step;
}

/**
 * A recording or an import. `importing` while a project file is read; `recording` until its take stands in its part: whatever is still `recording` when a project
 * is opened was cut off and is recovered.
 */
export interface SourceRecord {
  id: string;
  projectIds: string[];
  partId: string;
  trackId: string;
  take: number;
  name: string;
  rateHz: number;
  channels: number;
  state: 'recording' | 'importing' | 'kept';
  frames: number;
  /** Frames captured before the take began, kept so that joins can reach into them. */
  handleFrames: number;
  startedAt: number;
  /** Frames lost because storage could not keep up; 0 unless something is badly wrong. */
  overrunFrames: number;
  input: string;
}

/** One 32-bit float array per channel; `blockFrames` long but for the last block of a source. */
export type BlockRecord = Float32Array[];
/** Peaks of a block, one array per channel (see timeline/peaks). */
export type PeakRecord = Float32Array[];

export interface ParolaSchema extends DBSchema {
  projects: { key: string; value: ProjectRecord };
  parts: { key: string; value: PartRecord; indexes: { project: string } };
  history: { key: [string, number]; value: HistoryRecord };
  sources: { key: string; value: SourceRecord; indexes: { project: string } };
  blocks: { key: [string, number]; value: BlockRecord };
  peaks: { key: [string, number]; value: PeakRecord };
  settings: { key: string; value: unknown };
}
