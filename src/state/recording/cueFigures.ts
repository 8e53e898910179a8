import { create } from 'zustand';
import { offGuide, spokenIn, type Spoken } from '@/core/cues/againstGuide';
import type { PlacedTake } from '@/core/timeline/cueTakes';
import type { Cue } from '@/core/timeline/cues';
import { guidesOf } from '@/core/timeline/guides';
import { peakFrames } from '@/core/timeline/peaks';
import { PieceTable } from '@/core/timeline/pieces';
import { whenProjectCloses } from '../page/resets';
import { meanSquares } from '../pictures/sheetLevels';
import { rateOfProject, type SourceRecord } from '../project/openProject';
import { usePart } from '../sheet/part';
import { takeAsPlaced } from './cueTakes';

/** How a take lies against its guide, or against its cue where no guide speaks there; seconds. */
export interface TakeFigures {
  /** It begins so late; early below 0. */
  readonly late: number;
  /** It is so much too long; too short below 0. */
  readonly long: number;
  readonly against: 'guide' | 'cue';
}

/** What figures are known by: a take that several cues have lies another way in each. */
export const figuresKey = (cue: Pick<Cue, 'id'>, take: Pick<SourceRecord, 'id'>) => `${cue.id} ${take.id}`;

/** What is known of takes, by what it was found from; null for one in which nobody speaks. */
const known = new Map<string, TakeFigures | null>();
export const useCueFigures = create<{ figures: ReadonlyMap<string, TakeFigures | null> }>(() => ({
  figures: new Map(),
}));
whenProjectCloses(() => {
  known.clear();
  useCueFigures.setState({ figures: new Map() });
});

/** So much around a cue is compared. */
const aroundSeconds = { before: 0.4, after: 0.8 };

const tableIds = new WeakMap<PieceTable, number>();
let tables = 0;
function idOf(table: PieceTable): number {
  const id = tableIds.get(table) ?? ++tables;
  tableIds.set(table, id);
  return id;
}

/** A take with its levels around its cue, and those of the guide there; sheet frames. */
export interface TakeLevels {
  /** The sheet frame at which all levels begin, in steps of `peakFrames`. */
  readonly from: number;
  readonly take: Float32Array;
  readonly guide: Float32Array | null;
}

async function levelsAround(cue: Cue, { from: stands, recorded }: PlacedTake): Promise<TakeLevels> {
  const rateHz = rateOfProject();
  const from = Math.max(0, cue.from - Math.round(aroundSeconds.before * rateHz));
  const [pieces] = recorded.values();
  const table = PieceTable.of(pieces);
  const end = Math.max(cue.to + Math.round(aroundSeconds.after * rateHz), stands + table.frames);
  const levels = new Float32Array(Math.ceil((end - from) / peakFrames));
  const before = Math.max(0, from - stands);
  if (before < table.frames) {
    const own = await meanSquares(table, before, table.frames);
    const at = Math.max(0, Math.round((stands - from) / peakFrames));
    levels.set(own.subarray(0, levels.length - at), at);
  }
  const [guide] = guidesOf(usePart.getState().timeline);
  const to = Math.min(guide?.table.frames ?? 0, cue.to + Math.round(aroundSeconds.after * rateHz));
  return { from, take: levels, guide: to > from ? await meanSquares(guide.table, from, to) : null };
}

/** Where somebody speaks in a take, in steps from the sheet frame at which its levels begin. */
export interface MeasuredTake {
  readonly levels: TakeLevels;
  readonly spoken: Spoken;
  readonly figures: TakeFigures;
}

/** Compares a take with the guide, or with its cue; null where nobody speaks in it. */
export async function measureTake(cue: Cue, take: PlacedTake): Promise<MeasuredTake | null> {
  const levels = await levelsAround(cue, take);
  const step = peakFrames / rateOfProject();
  const spoken = spokenIn(levels.take, step);
  if (!spoken) return null;
  const off = levels.guide && offGuide(levels.take, levels.guide, step);
  if (off)
    return { levels, spoken, figures: { late: off.late * step, long: off.long * step, against: 'guide' } };
  const seconds = (frames: number) => frames / rateOfProject();
  const begins = levels.from + spoken.from * peakFrames;
  const length = (spoken.to - spoken.from) * peakFrames;
  const figures: TakeFigures = {
    late: seconds(begins - cue.from),
    long: seconds(length - (cue.to - cue.from)),
    against: 'cue',
  };
  return { levels, spoken, figures };
}

/** Finds out how takes of a cue lie, as far as that is not known; each is told as soon as it is. */
export async function measureTakes(cue: Cue, takes: readonly SourceRecord[]): Promise<void> {
  const [guide] = guidesOf(usePart.getState().timeline);
  for (const take of takes) {
    const { placement, recorded } = takeAsPlaced(cue, take);
    const { from } = placement;
    const pieces = [...recorded.values()][0].map(({ length }) => length).join();
    const key = [take.id, from, pieces, cue.from, cue.to, guide ? idOf(guide.table) : 0].join(' ');
    if (!known.has(key)) {
      const measured = await measureTake(cue, { from, recorded }).catch(() => null);
      known.set(key, measured?.figures ?? null);
    }
    const figures = known.get(key) ?? null;
    const name = figuresKey(cue, take);
    useCueFigures.setState((state) =>
      state.figures.get(name) === figures && state.figures.has(name)
        ? state
        : { figures: new Map(state.figures).set(name, figures) },
    );
  }
}
