import { together } from './severalVoices';
import type { Speech } from './voiceActivity';

/** What one voice says until another one begins, in frames. */
export interface Turn extends Speech {
  readonly track: string;
}

/** How much each voice has of what is said. */
export interface Share {
  readonly track: string;
  /** Frames it speaks, and its share of those of all together; both at once count for both. */
  readonly frames: number;
  readonly share: number;
  readonly turns: number;
}

/**
 * Turns of a conversation, in order of time: what a voice says in one go, its own pauses in it, until another
 * voice says something. What is said while another one has its turn is a turn as well.
 */
export function turnsOf(speech: ReadonlyMap<string, readonly Speech[]>): Turn[] {
  const all = [...speech]
    .flatMap(([track, stretches]) => stretches.map(({ from, to }): Turn => ({ track, from, to })))
    .sort((a, b) => a.from - b.from);
  const turns: Turn[] = [];
  for (const stretch of all) {
    const last = turns[turns.length - 1];
    if (last?.track === stretch.track)
      turns[turns.length - 1] = { ...last, to: Math.max(last.to, stretch.to) };
    else turns.push(stretch);
  }
  return turns;
}

export function sharesOf(speech: ReadonlyMap<string, readonly Speech[]>, turns: readonly Turn[]): Share[] {
  const frames = new Map(
    [...speech].map(([track, stretches]) => [
      track,
      stretches.reduce((sum, { from, to }) => sum + to - from, 0),
    ]),
  );
  const all = [...frames.values()].reduce((sum, value) => sum + value, 0);
  return [...frames].map(([track, spoken]) => ({
    track,
    frames: spoken,
    share: all === 0 ? 0 : spoken / all,
    turns: turns.filter((turn) => turn.track === track).length,
  }));
}

/**
 * Where the others speak and a voice does not, in order of time, frames: what lies `before` a stretch of the
 * voice and `after` it is left to it, so that its first and its last sound are whole. Shorter ones than
 * `shortest` are left out.
 */
export function othersAlone(
  own: readonly Speech[],
  others: readonly (readonly Speech[])[],
  margins: { before: number; after: number; shortest: number },
): Speech[] {
  const kept = together([
    own.map(({ from, to }) => ({ from: from - margins.before, to: to + margins.after })),
  ]);
  const alone: Speech[] = [];
  let next = 0;
  for (const { from, to } of together(others)) {
    while (next < kept.length && kept[next].to <= from) next++;
    let at = from;
    for (let i = next; i < kept.length && kept[i].from < to; i++) {
      if (kept[i].from > at) alone.push({ from: at, to: kept[i].from });
      at = Math.max(at, kept[i].to);
    }
    if (at < to) alone.push({ from: at, to });
  }
  return alone.filter((stretch) => stretch.to - stretch.from >= margins.shortest);
}
