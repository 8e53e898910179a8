/**
 * Something of the part a clip holds on to. `at` is the sheet frame where it was last seen: it goes with
 * every change of time, and counts where the mark, line or clip itself is gone.
 */
export type Moment =
  | { readonly kind: 'start' | 'end' | 'firstWord' | 'lastWord' }
  | { readonly kind: 'mark'; readonly mark: string; readonly at: number }
  | { readonly kind: 'line'; readonly line: string; readonly at: number }
  | { readonly kind: 'clip'; readonly clip: string; readonly at: number }
  | { readonly kind: 'place'; readonly at: number };

/** So many frames of heard time after a moment, before it where negative. */
export interface ClipEdge {
  readonly moment: Moment;
  readonly after: number;
}

/** A stretch that goes on for as long as is needed: from `to` back to `from`, crossfaded. Source frames. */
export interface ClipLoop {
  readonly from: number;
  readonly to: number;
  readonly fadeFrames: number;
  /** Sound that is alike on both sides keeps its level with a smooth fade, other sound with equal power. */
  readonly shape: 'smooth' | 'power';
}

export interface Clip {
  readonly id: string;
  readonly source: string;
  /** 2 where both channels are heard as left and right, 1 for one that is heard in the middle. */
  readonly channels: 1 | 2;
  /** The range of its source that is heard, in frames. */
  readonly from: number;
  readonly length: number;
  readonly levelDb: number;
  readonly begin: ClipEdge;
  /** `sound`: where its range ends. */
  readonly end: ClipEdge | 'sound';
  /** Frames over which it comes and goes. */
  readonly fadeIn: number;
  readonly fadeOut: number;
  readonly loop: ClipLoop | null;
}

/** Where a sheet frame comes to be. */
type Moved = (frame: number) => number;

const movedMoment = (moment: Moment, moved: Moved): Moment =>
  'at' in moment ? { ...moment, at: moved(moment.at) } : moment;

const movedEdge = (edge: ClipEdge, moved: Moved): ClipEdge => ({
  ...edge,
  moment: movedMoment(edge.moment, moved),
});

/** A clip after a change of time: what it holds on to goes along, the clip with it. */
export const movedClip = (clip: Clip, moved: Moved): Clip => ({
  ...clip,
  begin: movedEdge(clip.begin, moved),
  end: clip.end === 'sound' ? 'sound' : movedEdge(clip.end, moved),
});
