import { firstIndex } from '../base/search';
import { assert } from '../base/errors';

/**
 * How a gain moves over a fade or a join: constant power, straight, or a raised cosine (constant gain, for
 * sound that is alike).
 */
export const fadeShapes = ['power', 'straight', 'smooth'] as const;
export type FadeShape = (typeof fadeShapes)[number];

export interface Fade {
  readonly frames: number;
  readonly shape: FadeShape;
}

/**
 * What was set at a piece's edges by hand; all of it belongs to the edge and goes with it when the piece is
 * cut.
 */
interface Edges {
  /**
   * The cut before this piece is kept as a joint, even where the audio goes on; `frames` null for the usual
   * length of a join.
   */
  readonly joint?: { readonly frames: number | null; readonly shape: FadeShape };
  readonly fadeIn?: Fade;
  readonly fadeOut?: Fade;
}

export interface AudioPiece extends Edges {
  readonly kind: 'audio';
  readonly source: string;
  readonly channel: number;
  /** First frame of the source. */
  readonly from: number;
  readonly length: number;
  readonly gainDb: number;
}

/**
 * A stretch of a source in which nobody speaks, and from which room tone of any length is made (see tone.ts).
 */
export interface ToneRegion {
  readonly source: string;
  readonly channel: number;
  /** Source frames [start, end). */
  readonly start: number;
  readonly end: number;
}

/** Room tone without end, made from a region; a piece is a window on it. */
export interface TonePiece extends Edges, ToneRegion {
  readonly kind: 'tone';
  /** Two patches from one region sound different when their seeds are. */
  readonly seed: number;
  /** First frame of the endless tone. */
  readonly from: number;
  readonly length: number;
  readonly gainDb: number;
}

/**
 * Time with nothing in it: a track that was not recorded while another was, or audio a damaged file has lost.
 */
export interface SilencePiece extends Edges {
  readonly kind: 'silence';
  readonly length: number;
  /** The user wants silence here: no room tone is put in its place. */
  readonly meant?: boolean;
}

export type Piece = AudioPiece | TonePiece | SilencePiece;

export const silence = (length: number): SilencePiece => ({ kind: 'silence', length });

/** Both come from one recording (or one endless tone, or are silence of one kind), whatever their gain. */
export function sameStream(left: Piece, right: Piece): boolean {
  if (left.kind === 'silence' || right.kind === 'silence')
    return left.kind === 'silence' && right.kind === 'silence' && !left.meant === !right.meant;
  if (left.kind === 'tone' || right.kind === 'tone') {
    if (left.kind !== 'tone' || right.kind !== 'tone') return false;
    if (left.start !== right.start || left.end !== right.end || left.seed !== right.seed) return false;
  }
  return left.source === right.source && left.channel === right.channel;
}

/** True when `right` goes on in its source exactly where `left` ends, be it louder or quieter. */
export function isAdjacent(left: Piece, right: Piece): boolean {
  if (!sameStream(left, right)) return false;
  if (left.kind === 'silence' || right.kind === 'silence') return true;
  return left.from + left.length === right.from;
}

export const gainOf = (piece: Piece) => (piece.kind === 'silence' ? 0 : piece.gainDb);

/** True when `right` goes on without any difference where `left` ends. */
export const continues = (left: Piece, right: Piece): boolean =>
  isAdjacent(left, right) && gainOf(left) === gainOf(right) && !left.fadeOut && !right.fadeIn;

const equalFades = (a: Fade | undefined, b: Fade | undefined) =>
  a === b || (!!a && !!b && a.frames === b.frames && a.shape === b.shape);

export function equalPieces(a: Piece, b: Piece): boolean {
  if (a === b) return true;
  if (a.length !== b.length || !sameStream(a, b)) return false;
  if (gainOf(a) !== gainOf(b)) return false;
  if (a.kind !== 'silence' && b.kind !== 'silence' && a.from !== b.from) return false;
  const joints =
    a.joint?.frames === b.joint?.frames && a.joint?.shape === b.joint?.shape && !a.joint === !b.joint;
  return joints && equalFades(a.fadeIn, b.fadeIn) && equalFades(a.fadeOut, b.fadeOut);
}

export const samePieces = (a: readonly Piece[], b: readonly Piece[]): boolean =>
  a === b || (a.length === b.length && a.every((piece, index) => equalPieces(piece, b[index])));

function merged(left: Piece, right: Piece): Piece | null {
  if (right.joint || !continues(left, right)) return null;
  const whole = { ...left, length: left.length + right.length };
  return right.fadeOut ? { ...whole, fadeOut: right.fadeOut } : whole;
}

/**
 * The part of a piece from `offset` on, `length` frames long; what was set at an edge stays with that edge.
 */
function cut(piece: Piece, offset: number, length: number): Piece {
  if (offset === 0 && length === piece.length) return piece;
  // Most pieces have nothing at their edges, and thousands are cut at once.
  if (!piece.joint && !piece.fadeIn && !piece.fadeOut)
    return piece.kind === 'silence' ? { ...piece, length } : { ...piece, from: piece.from + offset, length };
  const { joint, fadeIn, fadeOut, ...bare } = piece;
  const edges: { -readonly [K in keyof Edges]: Edges[K] } = {};
  if (offset === 0 && joint) edges.joint = joint;
  if (offset === 0 && fadeIn) edges.fadeIn = fadeIn;
  if (offset + length === piece.length && fadeOut) edges.fadeOut = fadeOut;
  return bare.kind === 'silence'
    ? { ...bare, ...edges, length }
    : { ...bare, ...edges, from: bare.from + offset, length };
}

/**
 * One track as text editors hold text: an ordered list of pieces of immutable sources. Tables are immutable,
 * and canonical: no piece is empty and no two neighbours could be one, so equal content is an equal list. All
 * positions are frames of the table's own time: sheet time for a track, heard time for what is heard of it
 * (heard.ts).
 */
export class PieceTable {
  static readonly empty = new PieceTable([]);

  /** Position of each piece, and as last entry the total. */
  private readonly starts: Float64Array;

  /** Frames of the longest join that was set by hand. */
  readonly longestJoin: number;

  private constructor(readonly pieces: readonly Piece[]) {
    const count = pieces.length;
    let longest = 0;
    this.starts = new Float64Array(count + 1);
    for (let i = 0; i < count; i++) {
      const { length, joint } = pieces[i];
      if (joint?.frames && joint.frames > longest) longest = joint.frames;
      this.starts[i + 1] = this.starts[i] + length;
    }
    this.longestJoin = longest;
  }

  static of(pieces: Iterable<Piece>): PieceTable {
    const canonical: Piece[] = [];
    for (const piece of pieces) append(canonical, piece);
    return new PieceTable(canonical);
  }

  /**
   * A table of stretches that were cut from other tables, in the order they are given: only where two meet
   * can pieces be one.
   */
  static joined(stretches: readonly (readonly Piece[])[]): PieceTable {
    const canonical: Piece[] = [];
    for (const pieces of stretches) {
      if (pieces.length > 0) append(canonical, pieces[0]);
      for (let i = 1; i < pieces.length; i++) canonical.push(pieces[i]);
    }
    return new PieceTable(canonical);
  }

  get frames() {
    return this.starts[this.pieces.length];
  }

  startOf(index: number) {
    return this.starts[index];
  }

  /** Index of the piece that holds `frame`; the number of pieces at the end. */
  indexAt(frame: number) {
    return lastAtOrBefore(this.starts, frame, this.pieces.length);
  }

  /** The pieces of range [from, to), cut at its edges. Throws RangeError outside the table. */
  slice(from: number, to: number): Piece[] {
    this.check(from, to);
    const result: Piece[] = [];
    for (let i = this.indexAt(from); i < this.pieces.length && this.starts[i] < to; i++) {
      const start = Math.max(from, this.starts[i]);
      const end = Math.min(to, this.starts[i + 1]);
      if (end > start) result.push(cut(this.pieces[i], start - this.starts[i], end - start));
    }
    return result;
  }

  /**
   * A table of the stretches of this one that lie in `ranges`, which are in order and apart from each other;
   * in one pass.
   */
  only(ranges: readonly { from: number; to: number }[]): PieceTable {
    const kept: Piece[] = [];
    let index = 0;
    for (const { from, to } of ranges) {
      while (index < this.pieces.length && this.starts[index + 1] <= from) index++;
      for (let first = true; index < this.pieces.length && this.starts[index] < to; index++, first = false) {
        const start = Math.max(from, this.starts[index]);
        const end = Math.min(to, this.starts[index + 1]);
        const piece = cut(this.pieces[index], start - this.starts[index], end - start);
        if (first) append(kept, piece);
        else kept.push(piece);
        if (this.starts[index + 1] > to) break;
      }
    }
    return new PieceTable(kept);
  }

  /** A table in which range [from, to) is replaced by `pieces`. */
  replace(from: number, to: number, pieces: readonly Piece[]): PieceTable {
    this.check(from, to);
    const first = this.indexAt(from);
    const end = Math.min(this.pieces.length, to === this.frames ? this.pieces.length : this.indexAt(to) + 1);
    const before = first < this.pieces.length ? this.slice(this.starts[first], from) : [];
    const after = end > 0 ? this.slice(to, Math.max(to, this.starts[end])) : [];
    const result = this.pieces.slice(0, first);
    for (const piece of [...before, ...pieces, ...after]) append(result, piece);
    const rest = this.pieces.slice(end);
    if (rest.length > 0) append(result, rest[0]);
    return new PieceTable(rest.length > 1 ? result.concat(rest.slice(1)) : result);
  }

  /** A table with many ranges replaced at once, given in order of time and not overlapping; in one pass. */
  replaceMany(changes: readonly { from: number; to: number; pieces: readonly Piece[] }[]): PieceTable {
    if (changes.length === 0) return this;
    const stretches: (readonly Piece[])[] = [];
    let at = 0;
    for (const { from, to, pieces } of changes) {
      stretches.push(this.slice(at, from), ...pieces.map((piece) => [piece]));
      at = to;
    }
    stretches.push(this.slice(at, this.frames));
    return PieceTable.joined(stretches);
  }

  private check(from: number, to: number) {
    if (!(from >= 0 && from <= to && to <= this.frames)) {
      throw new RangeError(`Frames ${from} to ${to} are not inside 0 to ${this.frames}`);
    }
  }
}

function append(pieces: Piece[], piece: Piece) {
  if (piece.length === 0) return;
  assert(piece.length > 0, 'a piece has a positive length');
  const last = pieces[pieces.length - 1];
  const joined = last && merged(last, piece);
  if (joined) pieces[pieces.length - 1] = joined;
  else pieces.push(piece);
}

/** The index below `count` whose start is ≤ frame and whose successor's is > frame; `count` at the end. */
const lastAtOrBefore = (starts: Float64Array, frame: number, count: number): number =>
  firstIndex(count, (i) => starts[i + 1] > frame);
