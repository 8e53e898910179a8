import type { Clip, ClipEdge, ClipLoop, Moment } from './bedClips';
import type { SheetClock } from './clock';
import { bedsOf } from './mixEdits';
import { clockOf, type Timeline } from './timeline';

/** A clip in heard time, ready to be rendered. */
export interface HeardClip {
  readonly id: string;
  readonly source: string;
  readonly channels: 1 | 2;
  /** First frame of its source. */
  readonly from: number;
  /** Heard frame of its first one; before the part begins where negative. */
  readonly at: number;
  /** How long it is heard, in frames. */
  readonly frames: number;
  readonly levelDb: number;
  readonly fadeIn: number;
  readonly fadeOut: number;
  readonly loop: ClipLoop | null;
}

/** What a clip holds on to is not there any more; it stays where that was. */
export type Lost = 'mark' | 'line' | 'clip' | 'words';

export interface PlacedClip extends HeardClip {
  /** What of its two edges is lost. */
  readonly lost: readonly Lost[];
  /** What it holds on to at the beginning is struck: it stands at the joint. */
  readonly struck: boolean;
}

/** Finds where the clips of a part are, in heard time. */
class ClipPlaces {
  private readonly clock: SheetClock;
  private readonly clips: ReadonlyMap<string, Clip>;
  private readonly known = new Map<string, PlacedClip>();
  /** Clips that are being placed: one that holds on to itself, by others, stays where it was last. */
  private readonly open = new Set<string>();

  constructor(private readonly timeline: Timeline) {
    this.clock = clockOf(timeline);
    this.clips = new Map(bedsOf(timeline).flatMap(({ clips }) => clips.map((clip) => [clip.id, clip])));
  }

  placed(clip: Clip): PlacedClip {
    const known = this.known.get(clip.id);
    if (known) return known;
    this.open.add(clip.id);
    const lost: Lost[] = [];
    const at = this.edge(clip.begin, lost);
    const end = clip.end === 'sound' ? at + clip.length : this.edge(clip.end, lost);
    const most = clip.loop && clip.end !== 'sound' ? Infinity : clip.length;
    const frames = Math.max(0, Math.min(end - at, most));
    const fadeIn = Math.min(clip.fadeIn, frames);
    const placed: PlacedClip = {
      id: clip.id,
      source: clip.source,
      channels: clip.channels,
      from: clip.from,
      at,
      frames,
      levelDb: clip.levelDb,
      fadeIn,
      fadeOut: Math.min(clip.fadeOut, frames - fadeIn),
      loop: most === Infinity && frames > clip.length ? clip.loop : null,
      lost,
      struck: this.isStruck(clip.begin.moment),
    };
    this.open.delete(clip.id);
    this.known.set(clip.id, placed);
    return placed;
  }

  private edge({ moment, after }: ClipEdge, lost: Lost[]): number {
    return this.heard(moment, lost) + after;
  }

  private heard(moment: Moment, lost: Lost[]): number {
    if (moment.kind === 'clip') {
      const other = this.clips.get(moment.clip);
      if (other && !this.open.has(other.id)) {
        const { at, frames } = this.placed(other);
        return at + frames;
      }
      lost.push('clip');
      return this.clock.sheetToHeard(moment.at);
    }
    return this.clock.sheetToHeard(this.sheet(moment, lost));
  }

  private sheet(moment: Exclude<Moment, { kind: 'clip' }>, lost: Lost[]): number {
    const { marks, mix } = this.timeline;
    switch (moment.kind) {
      case 'start':
        return 0;
      case 'end':
        return this.clock.sheetFrames;
      case 'firstWord':
      case 'lastWord': {
        if (!mix?.words) lost.push('words');
        const words = mix?.words ?? { first: 0, last: this.clock.sheetFrames };
        return moment.kind === 'firstWord' ? words.first : words.last;
      }
      case 'mark':
      case 'line': {
        const mark = marks.find((one) =>
          moment.kind === 'mark' ? one.id === moment.mark : one.kind === 'line' && one.line === moment.line,
        );
        if (!mark) lost.push(moment.kind);
        return mark?.at ?? moment.at;
      }
      case 'place':
        return moment.at;
    }
  }

  private isStruck(moment: Moment): boolean {
    if (moment.kind === 'clip' || moment.kind === 'start' || moment.kind === 'end') return false;
    return this.clock.isStruck(this.sheet(moment, []));
  }
}

/** All clips of a part where they are heard, by bed. */
export function placedClips(timeline: Timeline): readonly (readonly PlacedClip[])[] {
  const beds = bedsOf(timeline);
  if (beds.length === 0) return [];
  const places = new ClipPlaces(timeline);
  return beds.map(({ clips }) => clips.map((clip) => places.placed(clip)));
}

/** A moment's heard frame, for whoever shows or moves what holds on to it. */
export const heardMoment = (timeline: Timeline, edge: ClipEdge): number =>
  new ClipPlaces(timeline).placed({
    id: '',
    source: '',
    channels: 1,
    from: 0,
    length: 0,
    levelDb: 0,
    begin: edge,
    end: 'sound',
    fadeIn: 0,
    fadeOut: 0,
    loop: null,
  }).at;

/**
 * Heard frames by which clips reach out of the part, before its beginning and after its end: that much of
 * them is not heard.
 */
export function overhang(timeline: Timeline): { before: number; after: number } {
  const end = clockOf(timeline).heardFrames;
  let before = 0;
  let after = 0;
  for (const { at, frames } of placedClips(timeline).flat()) {
    if (frames === 0) continue;
    before = Math.max(before, -at);
    after = Math.max(after, at + frames - end);
  }
  return { before, after };
}
