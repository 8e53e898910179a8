import type { Speech } from './voiceActivity';

/** A stretch of speech with its level, dBFS RMS. */
export interface VoicedSpeech extends Speech {
  levelDbfs: number;
}

/**
 * A voice arrives at a neighbour's microphone at least this much softer than at its own: microphones stand
 * three times as far from each other as from their voices, 9.5 dB (*common practice*).
 */
const bleedDb = 9;
/** As much of a stretch has to be a louder one elsewhere to be nothing but that. */
const bleedShare = 0.8;

/**
 * Stretches of speech of several microphones, each without what is only a neighbour's voice in it. All in
 * frames of one time, in order.
 */
export function ownSpeech(tracks: readonly (readonly VoicedSpeech[])[]): VoicedSpeech[][] {
  return tracks.map((own, index) => {
    const others = tracks
      .filter((_, other) => other !== index)
      .flat()
      .sort((a, b) => a.from - b.from);
    const reach = longest(others);
    let next = 0;
    return own.filter((stretch) => {
      while (next < others.length && others[next].from < stretch.from - reach) next++;
      let covered = 0;
      let at = stretch.from;
      for (let i = next; i < others.length && others[i].from < stretch.to; i++) {
        const { from, to, levelDbfs } = others[i];
        if (levelDbfs < stretch.levelDbfs + bleedDb || to <= at) continue;
        covered += Math.max(0, Math.min(to, stretch.to) - Math.max(from, at));
        at = Math.max(at, to);
      }
      return covered < bleedShare * (stretch.to - stretch.from);
    });
  });
}

const longest = (stretches: readonly Speech[]) =>
  stretches.reduce((most, { from, to }) => Math.max(most, to - from), 0);

/** Where anybody speaks: stretches that touch or overlap are one. */
export function together(tracks: readonly (readonly Speech[])[]): Speech[] {
  const all = tracks.flat().sort((a, b) => a.from - b.from);
  const result: Speech[] = [];
  for (const { from, to } of all) {
    const last = result[result.length - 1];
    if (last && from <= last.to) last.to = Math.max(last.to, to);
    else result.push({ from, to });
  }
  return result;
}
