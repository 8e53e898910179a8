import { firstIndex } from '../base/search';
import { cueSheetOf } from './cueEdits';
import type { Cue } from './cues';
import type { Timeline } from './timeline';

export type CueState = 'toDo' | 'recorded' | 'done';

/** A cue counts as recorded where at least so much of it has something recorded on it. */
const recordedShare = 0.1;

/** Frames of audio (no silence, no room tone) up to the beginning of each piece of a track. */
class RecordedFrames {
  private readonly starts: number[] = [];
  private readonly audio: number[] = [];
  private readonly isAudio: boolean[] = [];
  private end = 0;
  private all = 0;

  constructor(pieces: Timeline['tracks'][number]['table']['pieces']) {
    for (const { kind, length } of pieces) {
      this.starts.push(this.end);
      this.audio.push(this.all);
      this.isAudio.push(kind === 'audio');
      this.end += length;
      if (kind === 'audio') this.all += length;
    }
  }

  before(frame: number): number {
    if (frame >= this.end) return this.all;
    const index = firstIndex(this.starts.length, (i) => this.starts[i] > frame) - 1;
    if (index < 0) return 0;
    return this.audio[index] + (this.isAudio[index] ? frame - this.starts[index] : 0);
  }
}

/** What is known of each cue, by its id. */
export function cueStates(timeline: Timeline): ReadonlyMap<string, CueState> {
  const { cues, characters } = cueSheetOf(timeline);
  const tracks = timeline.tracks.map(({ id, table }) => ({ id, recorded: new RecordedFrames(table.pieces) }));
  const trackOf = new Map(characters.map(({ id, track }) => [id, track]));
  return new Map(
    cues.map((cue) => {
      if (cue.done) return [cue.id, 'done'];
      const own = trackOf.get(cue.character ?? '');
      const heard = tracks
        .filter(({ id }) => !own || id === own || !tracks.some((track) => track.id === own))
        .map(({ recorded }) => recorded.before(cue.to) - recorded.before(cue.from));
      const isRecorded = Math.max(0, ...heard) >= Math.max(1, recordedShare * (cue.to - cue.from));
      return [cue.id, isRecorded ? 'recorded' : 'toDo'];
    }),
  );
}

export interface Progress {
  readonly done: number;
  readonly all: number;
  /** Frames of the cues that are done, and of all. */
  readonly doneFrames: number;
  readonly frames: number;
}

const progressOf = (cues: readonly Cue[]): Progress => {
  const done = cues.filter((cue) => cue.done);
  const frames = (some: readonly Cue[]) => some.reduce((sum, { from, to }) => sum + to - from, 0);
  return { done: done.length, all: cues.length, doneFrames: frames(done), frames: frames(cues) };
};

/** How far it is, in all and for each character that has cues. */
export function cueProgress(timeline: Timeline): {
  all: Progress;
  characters: ReadonlyMap<string, Progress>;
} {
  const { cues, characters } = cueSheetOf(timeline);
  const own = characters
    .map(({ id }) => [id, progressOf(cues.filter(({ character }) => character === id))] as const)
    .filter(([, { all }]) => all > 0);
  return { all: progressOf(cues), characters: new Map(own) };
}

/** Cues of one character that begin before the one before has ended, each with the one it runs into. */
export function overlappingCues(cues: readonly Cue[]): { readonly cue: Cue; readonly into: Cue }[] {
  const last = new Map<string | undefined, Cue>();
  return cues.flatMap((cue) => {
    const before = last.get(cue.character);
    if (!before || cue.to > before.to) last.set(cue.character, cue);
    return before && cue.from < before.to ? [{ cue: before, into: cue }] : [];
  });
}

/** The next cue after a sheet frame that is not done, going round; null when all are. */
export function nextUndone(timeline: Timeline, after: number, chosen: string | null): Cue | null {
  const { cues } = cueSheetOf(timeline);
  const at = cues.findIndex(({ id }) => id === chosen);
  const from = at >= 0 ? at + 1 : cues.findIndex((cue) => cue.from >= after);
  const turned = from < 0 ? cues : [...cues.slice(from), ...cues.slice(0, from)];
  return turned.find(({ done, id }) => !done && id !== chosen) ?? null;
}
