import { firstIndex } from '../base/search';
import { movedClip } from './bedClips';
import { byCueTime, type CueSheet } from './cues';
import { changedPoints } from './levelPoints';
import { markTraits } from './markTraits';
import type { Mix } from './mix';
import { PieceTable, silence, type Piece } from './pieces';
import { union, type Range, type Segment } from './range';
import type { Mark, TakePlace, Timeline } from './timeline';

/**
 * A change of sheet time: the new sheet as segments of the old one and gaps, in order. No frame of the old
 * sheet is kept twice; what is kept nowhere is removed. Removing, opening and moving, one or many at once,
 * are all this one thing.
 */
export class TimeChange {
  /** Kept segments in the order of the old sheet, with where they begin on the new one. */
  private readonly kept: readonly (Range & { readonly at: number })[];
  readonly frames: number;

  constructor(readonly segments: readonly Segment[]) {
    const kept: (Range & { at: number })[] = [];
    let at = 0;
    for (const segment of segments) {
      if (segment.kind === 'opened') at += segment.frames;
      else {
        kept.push({ from: segment.from, to: segment.to, at });
        at += segment.to - segment.from;
      }
    }
    this.frames = at;
    this.kept = kept.sort((a, b) => a.from - b.from);
  }

  /** Takes ranges, in order and apart from each other, out of a sheet `sheetFrames` long. */
  static remove(ranges: readonly Range[], sheetFrames: number): TimeChange {
    const segments: Segment[] = [];
    let at = 0;
    for (const { from, to } of ranges) {
      if (from > at) segments.push({ kind: 'kept', from: at, to: from });
      at = to;
    }
    if (at < sheetFrames) segments.push({ kind: 'kept', from: at, to: sheetFrames });
    return new TimeChange(segments);
  }

  /** Opens gaps at sheet frames, in order of time. */
  static open(gaps: readonly { at: number; frames: number }[], sheetFrames: number): TimeChange {
    const segments: Segment[] = [];
    let done = 0;
    for (const { at, frames } of gaps) {
      if (at > done) segments.push({ kind: 'kept', from: done, to: at });
      segments.push({ kind: 'opened', frames });
      done = at;
    }
    if (done < sheetFrames) segments.push({ kind: 'kept', from: done, to: sheetFrames });
    return new TimeChange(segments);
  }

  /**
   * Slides a range by so many frames (negative: earlier) over what is there; a gap stays where it came from.
   * It stays on the sheet.
   */
  static slide({ from, to }: Range, by: number, sheetFrames: number): TimeChange {
    const kept = (start: number, end: number): Segment[] =>
      end > start ? [{ kind: 'kept', from: start, to: end }] : [];
    const gap: Segment = { kind: 'opened', frames: Math.abs(by) };
    return new TimeChange(
      by > 0
        ? [...kept(0, from), gap, ...kept(from, to), ...kept(to + by, sheetFrames)]
        : [...kept(0, from + by), ...kept(from, to), gap, ...kept(to, sheetFrames)],
    );
  }

  /** True for a frame that is on the new sheet too. */
  keeps(frame: number): boolean {
    const range = this.kept[this.lastFromUpTo(frame)];
    return !!range && frame < range.to;
  }

  /**
   * Where a sheet frame comes to be. It goes with what follows it (`start`), as the beginning of something
   * does, or with what is before it (`end`); a frame that is removed goes to the joint.
   */
  frame(frame: number, side: 'start' | 'end' = 'start'): number {
    const index = this.lastFromUpTo(side === 'start' ? frame : frame - 1);
    const range = this.kept[index];
    if (range && (side === 'start' ? frame < range.to : frame <= range.to))
      return range.at + frame - range.from;
    if (range) return range.at + range.to - range.from;
    const next = this.kept[0];
    return next ? next.at : this.frames;
  }

  /**
   * The segments of the new sheet to which an old one has come, each with what of it stands there; in order
   * of the old sheet.
   */
  parts({ from, to }: Range): (Range & { readonly at: number })[] {
    const result: (Range & { at: number })[] = [];
    for (let i = Math.max(0, this.lastFromUpTo(from)); i < this.kept.length && this.kept[i].from < to; i++) {
      const kept = this.kept[i];
      const start = Math.max(from, kept.from);
      const end = Math.min(to, kept.to);
      if (end > start) result.push({ from: start, to: end, at: kept.at + start - kept.from });
    }
    return result;
  }

  private lastFromUpTo(frame: number): number {
    return firstIndex(this.kept.length, (i) => this.kept[i].from > frame) - 1;
  }
}

function changedTable(table: PieceTable, { segments }: TimeChange): PieceTable {
  return PieceTable.joined(
    segments.map((segment): readonly Piece[] =>
      segment.kind === 'opened'
        ? [silence(segment.frames)]
        : table.slice(Math.min(segment.from, table.frames), Math.min(segment.to, table.frames)),
    ),
  );
}

/**
 * A mark's beginning goes with what follows it, its end with what is before it: what is opened at either end
 * lies outside.
 */
function changedMarks(marks: readonly Mark[], change: TimeChange): Mark[] {
  const result: Mark[] = [];
  for (const mark of marks) {
    const { at, length, kind } = mark;
    const last = at + Math.max(length, 1);
    if (markTraits[kind].goesWithPassage && change.parts({ from: at, to: last }).length === 0) continue;
    const start = change.frame(at);
    const end = length > 0 ? Math.max(start, change.frame(at + length, 'end')) : start;
    result.push(start === at && end - start === length ? mark : { ...mark, at: start, length: end - start });
  }
  return result.sort(byTime);
}

export const byTime = (a: Mark, b: Mark) => a.at - b.at || (a.id < b.id ? -1 : 1);

const changedPlaces = (places: readonly TakePlace[], change: TimeChange): TakePlace[] =>
  places.flatMap((place) => {
    const parts = change.parts({ from: place.at, to: place.at + place.length });
    return parts.map(({ from, to, at }) =>
      at === place.at && to - from === place.length
        ? place
        : { ...place, at, from: place.from + from - place.at, length: to - from },
    );
  });

const changedRanges = (ranges: readonly Range[], change: TimeChange): Range[] =>
  union(
    ranges.flatMap((range) =>
      change.parts(range).map(({ from, to, at }) => ({ from: at, to: at + to - from })),
    ),
  );

const changedMix = ({ strips, beds, words }: Mix, change: TimeChange): Mix => ({
  strips: strips.map((strip) =>
    strip.points.length === 0 ? strip : { ...strip, points: changedPoints(strip.points, change.segments) },
  ),
  beds: beds.map((bed) => ({
    ...bed,
    clips: bed.clips.map((clip) => movedClip(clip, (frame) => change.frame(frame))),
  })),
  ...(words && { words: { first: change.frame(words.first), last: change.frame(words.last, 'end') } }),
});

/**
 * A cue goes as a mark does; one whose passage is taken out stays at the joint: what was to be said is not
 * lost.
 */
const changedCues = (sheet: CueSheet, change: TimeChange): CueSheet => ({
  ...sheet,
  cues: sheet.cues
    .map((cue) => {
      const from = change.frame(cue.from);
      const to = Math.max(from, change.frame(cue.to, 'end'));
      return from === cue.from && to === cue.to ? cue : { ...cue, from, to };
    })
    .sort(byCueTime),
});

/**
 * How each thing that has a place on the sheet is carried along by a change of time. Whatever is added to a
 * timeline needs an entry here.
 */
const carriers: {
  readonly [Field in keyof Required<Omit<Timeline, 'output'>>]: (
    value: Timeline[Field],
    change: TimeChange,
  ) => Timeline[Field];
} = {
  tracks: (tracks, change) => tracks.map((track) => ({ ...track, table: changedTable(track.table, change) })),
  struck: changedRanges,
  marks: changedMarks,
  places: changedPlaces,
  guides: (guides, change) =>
    guides?.map((guide) => ({ ...guide, table: changedTable(guide.table, change) })),
  mix: (mix, change) => mix && changedMix(mix, change),
  cueSheet: (sheet, change) => sheet && changedCues(sheet, change),
};

/** Applies a change of time to everything on the sheet. */
export const changeTime = (timeline: Timeline, change: TimeChange): Timeline => ({
  ...timeline,
  tracks: carriers.tracks(timeline.tracks, change),
  struck: carriers.struck(timeline.struck, change),
  marks: carriers.marks(timeline.marks, change),
  places: carriers.places(timeline.places, change),
  ...(timeline.guides && { guides: carriers.guides(timeline.guides, change) }),
  ...(timeline.mix && { mix: carriers.mix(timeline.mix, change) }),
  ...(timeline.cueSheet && { cueSheet: carriers.cueSheet(timeline.cueSheet, change) }),
});
