import type { Speech } from './voiceActivity';

/** A line of the script and the sentences, by index, in which it was read. */
export interface AlignedLine {
  line: number;
  first: number;
  last: number;
}

/** A line takes at most so many sentences of the recording: commas and breaths cut a line into several. */
const mostSentences = 6;
/** What a skipped sentence or a line that was not read costs, in line lengths. */
const skipCost = 1.1;

/**
 * Lays the lines of a script along the sentences of a reading by their order and lengths: letters against
 * seconds of speech, both as shares of a usual line. The cheapest assignment in order (dynamic programming);
 * lines that were not read and sentences that belong to no line are left out.
 */
export function alignLines(lengths: readonly number[], sentences: readonly Speech[]): AlignedLine[] {
  const letters = lengths.reduce((sum, length) => sum + length, 0);
  const spoken = sentences.map(({ from, to }) => to - from);
  const time = spoken.reduce((sum, length) => sum + length, 0);
  if (letters === 0 || time === 0) return [];
  // How fast the reader speaks is not known: where lines are missing, less was said in the time than is
  // written.
  const alignments = paces.map((pace) =>
    align(lengths, spoken, (pace * time) / letters, letters / lengths.length),
  );
  return alignments.reduce((best, one) => (one.cost < best.cost ? one : best)).aligned;
}

/** Time for a letter, over what it would be if all of the script and nothing else had been read. */
const paces = [1, 0.8, 0.9, 1.15, 1.35, 1.6, 2, 2.6] as const;

function align(
  lengths: readonly number[],
  spoken: readonly number[],
  perLetter: number,
  usual: number,
): { cost: number; aligned: AlignedLine[] } {
  const lines = lengths.length;
  const count = spoken.length;
  const cost = Array.from({ length: lines + 1 }, () => new Float64Array(count + 1).fill(Infinity));
  const step = Array.from({ length: lines + 1 }, () => new Int8Array(count + 1));
  for (let j = 0; j <= count; j++) {
    cost[0][j] = j * skipCost;
    step[0][j] = -1;
  }
  for (let i = 1; i <= lines; i++) {
    for (let j = 0; j <= count; j++) {
      // −2: the line was not read; −1: the sentence belongs to no line; n: the line takes the n sentences
      // before j.
      let best = cost[i - 1][j] + skipCost;
      let how = -2;
      if (j > 0 && cost[i][j - 1] + skipCost < best) {
        best = cost[i][j - 1] + skipCost;
        how = -1;
      }
      let length = 0;
      for (let n = 1; n <= Math.min(mostSentences, j); n++) {
        length += spoken[j - n];
        const off = Math.abs(length / perLetter - lengths[i - 1]) / usual;
        const gaps = 0.05 * (n - 1);
        if (cost[i - 1][j - n] + off + gaps < best) {
          best = cost[i - 1][j - n] + off + gaps;
          how = n;
        }
      }
      cost[i][j] = best;
      step[i][j] = how;
    }
  }
  const aligned: AlignedLine[] = [];
  for (let i = lines, j = count; i > 0 || j > 0;) {
    const how = step[i][j];
    if (how === -1) j--;
    else if (how === -2) i--;
    else {
      aligned.unshift({ line: i - 1, first: j - how, last: j - 1 });
      i--;
      j -= how;
    }
  }
  return { cost: cost[lines][count], aligned };
}
