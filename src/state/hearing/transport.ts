import { create } from 'zustand';
import type { Player } from '@/audio/player';
import type { LiveTake } from './liveTake';
import { partClock } from '../sheet/part';
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
}

export const useTransport = create<Transport>(() => ({
  mode: 'idle',
  live: null,
  rolling: null,
  playingTake: null,
}));

/** What is there can be worked on: nothing is recorded, though something may be playing. */
export const isEditable = ({ mode }: Pick<Transport, 'mode'>) => mode === 'idle' || mode === 'playing';

/** What is playing now; its owner sets it. */
export const playback: { player: Player | null; caretMoves: boolean; onSheet: boolean } = {
  player: null,
  caretMoves: false,
  onSheet: false,
};

/** The sheet frame that is heard or recorded now, or null. */
export function headFrame(): number | null {
  const { live, rolling } = useTransport.getState();
  const clock = partClock();
  if (rolling) {
    const left = Math.max(0, rolling.until - performance.now() / 1000);
    const heard = clock.sheetToHeard(rolling.fromFrame) - Math.round(left * rateOfProject());
    return heard < 0 ? null : clock.heardToSheet(heard);
  }
  if (live) return live.startFrame + live.frames;
  const { player, onSheet } = playback;
  return player && onSheet ? clock.heardToSheet(player.frame) : null;
}
