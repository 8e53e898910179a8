import { create } from 'zustand';
import type { Cue } from '@/core/timeline/cues';
import type { Player } from '@/audio/player';
import type { LiveTake } from './liveTake';
import { partClock } from '../sheet/part';
import { currentEngine } from './engine';
import { rateOfProject } from '../project/openProject';

/**
 * What moves: nothing, the play head, a run-up or count-in before a recording, the recording, or a take that
 * is being stored. Playing (`playing.ts`) and recording (`recording.ts`) change it.
 */
interface Transport {
  mode: 'idle' | 'playing' | 'rolling' | 'recording' | 'finishing';
  live: LiveTake | null;
  /**
   * While rolling: when recording begins, in seconds of the page's clock, and how long the wait is in all.
   */
  rolling: { until: number; seconds: number; fromFrame: number } | null;
  /** A take that is listened to by itself. */
  playingTake: string | null;
  /** The sheet frame that somebody drags across. */
  scrubbed: number | null;
  /** The cue that is recorded, or run through dry. */
  cueRun: CueRun | null;
}

export interface CueRun {
  readonly cue: Cue;
  readonly dry: boolean;
  /** Seconds of the context at which its line begins; null until known, and where a player knows it. */
  readonly beginsAt: number | null;
}

export const useTransport = create<Transport>(() => ({
  mode: 'idle',
  live: null,
  rolling: null,
  playingTake: null,
  scrubbed: null,
  cueRun: null,
}));

/** What is there can be worked on: nothing is recorded, though something may be playing. */
export const isEditable = ({ mode }: Pick<Transport, 'mode'>) => mode === 'idle' || mode === 'playing';

/** What is playing now; its owner sets it. */
export const playback: { player: Player | null; caretMoves: boolean; onSheet: boolean } = {
  player: null,
  caretMoves: false,
  onSheet: false,
};

/**
 * The heard frame of a cue's run that is heard now; negative where its run-up begins before the sheet does.
 * Null while none runs.
 */
function cueHead(): number | null {
  const { cueRun } = useTransport.getState();
  if (!cueRun) return null;
  const { player } = playback;
  if (cueRun.dry) return player?.frame ?? null;
  const context = currentEngine()?.context;
  if (!context || cueRun.beginsAt === null) return null;
  const now = context.currentTime - (context.outputLatency || 0);
  return partClock().heardOnward(cueRun.cue.from) + Math.round((now - cueRun.beginsAt) * rateOfProject());
}

/** Seconds until the line of the cue that runs begins, and until it ends; negative afterwards. */
export function cueLeft(): { toIn: number; toOut: number } | null {
  const head = cueHead();
  const { cueRun } = useTransport.getState();
  if (head === null || !cueRun) return null;
  const { from, to } = cueRun.cue;
  const toIn = (partClock().heardOnward(from) - head) / rateOfProject();
  return { toIn, toOut: toIn + (to - from) / rateOfProject() };
}

const scrubMs = 400;
let scrubbing: ReturnType<typeof setTimeout> | undefined;

/** A moment of the sheet is let hear while somebody drags; a while after the last one the caret is meant. */
export function setScrubbed(frame: number): void {
  clearTimeout(scrubbing);
  useTransport.setState({ scrubbed: frame });
  scrubbing = setTimeout(() => useTransport.setState({ scrubbed: null }), scrubMs);
}

/**
 * Seconds until what plays is heard: 0 once it is, and while something is recorded; Infinity while that is
 * being prepared.
 */
export function secondsToSound(): number {
  const { live, rolling, cueRun } = useTransport.getState();
  if (live || rolling || (cueRun && !cueRun.dry)) return 0;
  return playback.player?.waitSeconds ?? 0;
}

/** The sheet frame that is heard or recorded now, or null. */
export function headFrame(): number | null {
  const { live, rolling, cueRun } = useTransport.getState();
  const clock = partClock();
  if (cueRun) {
    const head = cueHead();
    return head === null || head < 0 ? null : clock.sheetOnward(head);
  }
  if (rolling) {
    const left = Math.max(0, rolling.until - performance.now() / 1000);
    const heard = clock.sheetToHeard(rolling.fromFrame) - Math.round(left * rateOfProject());
    return heard < 0 ? null : clock.heardToSheet(heard);
  }
  if (live) return live.startFrame + live.frames;
  const { player, onSheet } = playback;
  return player && onSheet ? clock.heardToSheet(player.frame) : null;
}
