import { useLayoutEffect } from 'react';

/** What moves slowly moves at these times, all of it together: each time the page is drawn costs the same. */
const beatMs = 50;

const ticking = new Set<{ beats: number; tick: () => void }>();
let timer: ReturnType<typeof setInterval> | undefined;
let beat = 0;

function onBeat() {
  beat++;
  for (const { beats, tick } of ticking) {
    if (beat % beats !== 0) continue;
    try {
      tick();
    } catch (error) {
      // The clock goes on where the level cannot be shown.
      reportError(error);
    }
  }
}

/**
 * Calls `tick` at once, and about every `everyMs` (in steps of 50 ms) while something goes on. What moves
 * slowly is not drawn with every frame of the screen: that would cost a recording more than the recording
 * itself.
 */
export function useTicks(everyMs: number, goesOn: boolean, tick: () => void): void {
  useLayoutEffect(() => {
    tick();
    if (!goesOn) return;
    const mine = { beats: Math.max(1, Math.round(everyMs / beatMs)), tick };
    ticking.add(mine);
    timer ??= setInterval(onBeat, beatMs);
    return () => {
      ticking.delete(mine);
      if (ticking.size > 0) return;
      clearInterval(timer);
      timer = undefined;
    };
  }, [everyMs, goesOn, tick]);
}
