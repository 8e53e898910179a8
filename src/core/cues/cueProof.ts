import { decimal, say } from '../../texts/say';
import { overlappingCues } from '../timeline/cueState';
import type { Cue, CueSheet } from '../timeline/cues';

/** What is heard of a cue, as far as it is known. */
export interface ProvedCue {
  readonly loudnessLufs: number | null;
  readonly clippedSamples: number;
  /** Speech goes on so many seconds after the line's end; 0 where it does not, null where nobody knows. */
  readonly overSeconds: number | null;
}

export interface CueFault {
  readonly cue: Cue;
  readonly kind: 'missing' | 'level' | 'clipped' | 'overlap' | 'over';
  readonly text: string;
}

/** Cues of one character are alike within so much; *common practice* for parts of one reading. */
const alikeLu = 2;
/** Later than that the end of a line is seen to be late: a picture or two (*common practice*). */
const mostOverSeconds = 0.1;

/**
 * What a client would send back of a cue sheet: what is not recorded, clipped, louder or softer than the
 * character’s other cues, runs into the next or beyond its time. By cue, in order of time. `heard` has what
 * is recorded.
 */
export function proveCues(sheet: CueSheet, heard: ReadonlyMap<string, ProvedCue>): CueFault[] {
  const usual = usualLoudness(sheet, heard);
  const into = new Map(overlappingCues(sheet.cues).map(({ cue, into: next }) => [cue.id, next]));
  return sheet.cues.flatMap((cue): CueFault[] => {
    const faults: CueFault[] = [];
    const tell = (kind: CueFault['kind'], text: string) => faults.push({ cue, kind, text });
    const next = into.get(cue.id);
    if (next) tell('overlap', say`runs into cue ${next.number} of the same character`);
    const known = heard.get(cue.id);
    if (!known) {
      tell('missing', say`is not recorded`);
      return faults;
    }
    if (known.clippedSamples > 0) tell('clipped', say`has clipped samples: record it again, softer`);
    const own = usual.get(cue.character ?? '');
    const off = own === undefined || known.loudnessLufs === null ? 0 : known.loudnessLufs - own;
    if (Math.abs(off) > alikeLu)
      tell(
        'level',
        say`is ${decimal(Math.abs(off), 1)} LU ${off > 0 ? say`louder` : say`softer`} than the character’s other cues`,
      );
    if (known.overSeconds !== null && known.overSeconds > mostOverSeconds)
      tell('over', say`goes on ${decimal(known.overSeconds, 1)} s after its end`);
    return faults;
  });
}

/** The middle loudness of each character’s cues, where there are at least three. */
function usualLoudness(sheet: CueSheet, heard: ReadonlyMap<string, ProvedCue>): ReadonlyMap<string, number> {
  const all = new Map<string, number[]>();
  for (const { id, character = '' } of sheet.cues) {
    const lufs = heard.get(id)?.loudnessLufs ?? null;
    if (lufs !== null) all.set(character, [...(all.get(character) ?? []), lufs]);
  }
  return new Map(
    [...all].flatMap(([character, values]) => {
      const sorted = values.sort((a, b) => a - b);
      const middle = sorted.length >> 1;
      const median = sorted.length % 2 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
      return values.length >= 3 ? [[character, median] as const] : [];
    }),
  );
}
