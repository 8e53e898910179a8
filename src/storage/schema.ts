import type { DBSchema } from 'idb';
import type { SaidName } from '@/core/script/names';
import type { SplitRule } from '@/core/base/text';
import type { Step } from '@/core/timeline/history';
import type { ToneChoice } from '@/core/timeline/roomEdits';
import type { Placement } from '@/core/timeline/takes';
import type { StoredTimeline } from '@/core/timeline/stored';
import type { Film } from '@/core/cues/film';
import type { CueSettings } from '@/core/recording/cueSettings';
import type { LevelChoice } from '@/core/recording/levelProfiles';
import type { SoundCheck } from '@/core/recording/soundCheck';
import type { FarRecording } from '@/core/far/messages';
import type { Spec } from '@/core/specs/spec';

export interface ScriptLine {
  id: string;
  text: string;
  /** What was read, where the text has been changed since. */
  was?: string;
}

/**
 * Which input the user chose; nothing records before one is chosen. A file has to be chosen anew after a
 * reload.
 */
export type InputChoice =
  | {
      kind: 'reader';
      script?: 'narration' | 'conversation' | 'interpretation' | 'cues';
      delayFrames?: number;
      hearsOutput?: boolean;
    }
  | { kind: 'file'; name: string }
  /** Whoever is at the other end of a line. */
  | { kind: 'far' }
  | { kind: 'microphone'; deviceId: string; label: string };

/** Which channel of which input a track of that id records; unarmed tracks keep theirs for later. */
export interface Route {
  track: string;
  /** Id of the input; the main one when missing. */
  input?: string;
  channel: number;
  armed: boolean;
}

/** How Record works, as last set in this project. */
export interface RecordSettings {
  mode: RecordMode;
  runUpSeconds: number;
  countIn: 'none' | 'beeps' | 'sweep';
  /** A take ends by itself after so many seconds; null for no end. */
  fixedSeconds: number | null;
  /** A part mark while recording starts the next part. */
  keepGoing: boolean;
  /** The other tracks and the guide are heard while recording; missing in earlier projects: they are. */
  hearOthers?: boolean;
  /** A patch keeps the length of the selection, or takes that of the new reading. */
  patchLength: 'selection' | 'reading';
  /** Missing in earlier projects. */
  cue?: CueSettings;
}
export type RecordMode = Placement['mode'];

/** A sound check with the session it was made for. */
export interface SoundCheckRecord {
  id: string;
  projectId: string;
  at: number;
  input: string;
  result: SoundCheck;
  /** The recording of the silent stretch: this session's room tone. */
  toneSource: string;
  /** Later sessions are compared with this one. */
  reference: boolean;
}

/** Levels of a take, for the list of takes; null for silence. */
export interface TakeSummary {
  peakDbfs: number | null;
  loudnessLufs: number | null;
  clippedSamples: number;
}

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
  /** Missing in projects from before these existed. */
  routes?: Route[];
  recording?: RecordSettings;
  levels?: LevelChoice;
  /** How further parts are called; `{n}` is their number. Missing: “Part {n}”. */
  further?: string;
  /** How a script becomes lines; at the ends of sentences when missing. */
  split?: SplitRule;
  /** How names are said. */
  names?: SaidName[];
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
  /** Room tone by track. */
  tones?: Record<string, ToneChoice>;
  /** Proposals the user has refused, so that they do not come back. */
  refused?: string[];
}

export interface HistoryRecord {
  partId: string;
  seq: number;
  step: Step;
}

/** How a take came over a line: it is replaced by what was recorded at its other end. */
export interface TakeOverLine {
  /** By which name the other ends know it: its own id, as long as no voice in it has been replaced. */
  take: string;
  /** Which of the studio's clocks its seconds are of. */
  life: string;
  /** The second at the take's own first frame, handles not counted. */
  startsAt: number;
  /** How long its sound was on its way, as far as was known. */
  delaySeconds: number;
  /** Whose voice came on which of its channels, by keys; those that have been replaced are not among them. */
  voices: { channel: number; person: string; name: string }[];
}

/** A recording as it is made, or as it arrives. */
export interface FarSource {
  recording: FarRecording;
  /** Key of who made it. */
  person: string;
  /** Where it was made: all of it stands at the studio. */
  kept?: boolean;
}

/**
 * A recording or an import. `importing` while a project file is read, `receiving` while a sound file is;
 * `recording` until its take stands in its part: whatever is still `recording` when a project is opened was
 * cut off and is recovered. `arriving` while the blocks of somebody far away come in,
 * which may take until the day after.
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
  state: 'recording' | 'importing' | 'receiving' | 'arriving' | 'kept';
  frames: number;
  /** Frames captured before the take began, kept so that joins can reach into them. */
  handleFrames: number;
  startedAt: number;
  /** Frames lost because storage could not keep up; 0 unless something is badly wrong. */
  overrunFrames: number;
  input: string;
  /**
   * `take` when missing; `tone` and `check` are recordings of a sound check and stand in no part; `bed` is
   * music or atmosphere, `far` what was recorded at the other end of a line, `line` what came over one and
   * has been replaced.
   */
  role?: 'take' | 'tone' | 'check' | 'bed' | 'guide' | 'far' | 'line';
  line?: TakeOverLine;
  far?: FarSource;
  /** Of room tone: its level, RMS in dBFS. */
  levelDbfs?: number;
  /** Where it goes on the sheet; at the end when missing. */
  placement?: Placement;
  /** The tracks its channels were recorded for, in the order of the channels; `[trackId]` when missing. */
  trackIds?: string[];
  /** The cue it was recorded for. */
  cue?: string;
  /** Of a guide that is the sound of a moving picture: that picture, which `films.ts` keeps. */
  film?: Film;
  summary?: TakeSummary;
  note?: string;
  circled?: boolean;
  /** Deleted by the user: hidden, and gone for good when the project is closed. */
  deleted?: boolean;
  /** What differs in a project that shares the audio with another, by the project's id. */
  own?: Record<string, TakeOfProject>;
}

/** What the user says of a take, and which part it belongs to: a copy of a project has its own. */
export type TakeOfProject = Partial<
  Pick<SourceRecord, 'partId' | 'take' | 'name' | 'note' | 'circled' | 'deleted'>
>;

/**
 * Which block of a source it is, counted in `blockFrames`; a packed block begins at a multiple of
 * `packedBlocks` and stands for so many of them as the third number says.
 */
export type BlockKey = [source: string, index: number] | [source: string, index: number, blocks: number];
/**
 * One 32-bit float array per channel; as long as its key says but for the last block of a source, which may
 * be shorter.
 */
export type BlockRecord = Float32Array[];
/** Peaks of a block, one array per channel (see timeline/peaks). */
export type PeakRecord = Float32Array[];

export interface ParolaSchema extends DBSchema {
  projects: { key: string; value: ProjectRecord };
  parts: { key: string; value: PartRecord; indexes: { project: string } };
  history: { key: [string, number]; value: HistoryRecord };
  sources: { key: string; value: SourceRecord; indexes: { project: string } };
  blocks: { key: BlockKey; value: BlockRecord };
  peaks: { key: BlockKey; value: PeakRecord };
  settings: { key: string; value: unknown };
  checks: { key: string; value: SoundCheckRecord; indexes: { project: string } };
}
