import { assert } from '../base/errors';

/** How a gain moves over a fade or a join: constant power, straight, or a raised cosine (constant gain, for sound that is alike). */
export const fadeShapes = ['power', 'straight', 'smooth'] as const;
export type FadeShape = (typeof fadeShapes)[number];

export interface Fade {
  readonly frames: number;
  readonly shape: FadeShape;
}

/** What was set at a piece's edges by hand; all of it belongs to the edge and goes with it when the piece is cut. */
interface Edges {
  /** The cut before this piece is kept as a joint, even where the audio goes on; `frames` null for the usual length of a join. */
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
  readonly struck: boolean;
}

/** A stretch of a source in which nobody speaks, and from which room tone of any length is made (see tone.ts). */
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
  readonly struck: boolean;
}

/** Time with nothing in it: a track that was not recorded while another was, or audio a damaged file has lost. */
export interface SilencePiece extends Edges {
  readonly kind: 'silence';
  readonly length: number;
  readonly struck: boolean;
  /** The user wants silence here: no room tone is put in its place. */
  readonly meant?: boolean;
}

export type Piece = AudioPiece | TonePiece | SilencePiece;

/** Both come from one recording (or one endless tone, or are silence of one kind), whatever their gain. */
function sameStream(left: Piece, right: Piece): boolean {
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

const gainOf = (piece: Piece) => (piece.kind === 'silence' ? 0 : piece.gainDb);

/** True when `right` goes on without any difference where `left` ends, whether or not either is struck. */
export const continues = (left: Piece, right: Piece): boolean =>
  isAdjacent(left, right) && gainOf(left) === gainOf(right) && !left.fadeOut && !right.fadeIn;

const equalFades = (a: Fade | undefined, b: Fade | undefined) =>
  a === b || (!!a && !!b && a.frames === b.frames && a.shape === b.shape);

export function equalPieces(a: Piece, b: Piece): boolean {
  if (a === b) return true;
  if (a.length !== b.length || a.struck !== b.struck || !sameStream(a, b)) return false;
  if (gainOf(a) !== gainOf(b)) return false;
  if (a.kind !== 'silence' && b.kind !== 'silence' && a.from !== b.from) return false;
  const joints =
    a.joint?.frames === b.joint?.frames && a.joint?.shape === b.joint?.shape && !a.joint === !b.joint;
  return joints && equalFades(a.fadeIn, b.fadeIn) && equalFades(a.fadeOut, b.fadeOut);
}

function merged(left: Piece, right: Piece): Piece | null {
  if (left.struck !== right.struck || right.joint || !continues(left, right)) return null;
  const whole = { ...left, length: left.length + right.length };
  return right.fadeOut ? { ...whole, fadeOut: right.fadeOut } : whole;
}

/** The part of a piece from `offset` on, `length` frames long; what was set at an edge stays with that edge. */
function cut(piece: Piece, offset: number, length: number): Piece {
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
 * One track as text editors hold text: an ordered list of pieces of immutable sources. Tables are immutable, and canonical: no piece is empty and
 * no two neighbours could be one, so equal content is an equal list. All positions are frames.
 *
 * Two times: *sheet* time, in which struck pieces take their place, and *heard* time, in which they do not.
 */
export class PieceTable {
  static readonly empty = new PieceTable([]);

  /** Sheet and heard position of each piece, and as last entry the total. */
  private readonly sheetStarts: Float64Array;
  private readonly heardStarts: Float64Array;

  /** Frames of the longest join that was set by hand. */
  readonly longestJoin: number;

  private constructor(readonly pieces: readonly Piece[]) {
    const count = pieces.length;
    let longest = 0;
    this.sheetStarts = new Float64Array(count + 1);
    this.heardStarts = new Float64Array(count + 1);
    for (let i = 0; i < count; i++) {
      const { length, struck, joint } = pieces[i];
      if (joint?.frames && joint.frames > longest) longest = joint.frames;
      this.sheetStarts[i + 1] = this.sheetStarts[i] + length;
      this.heardStarts[i + 1] = this.heardStarts[i] + (struck ? 0 : length);
    }
    this.longestJoin = longest;
  }

  static of(pieces: readonly Piece[]): PieceTable {
    const canonical: Piece[] = [];
    for (const piece of pieces) append(canonical, piece);
    return new PieceTable(canonical);
  }

  get sheetFrames() {
    return this.sheetStarts[this.pieces.length];
  }

  get heardFrames() {
    return this.heardStarts[this.pieces.length];
  }

  sheetStartOf(index: number) {
    return this.sheetStarts[index];
  }

  heardStartOf(index: number) {
    return this.heardStarts[index];
  }

  /** Index of the piece that holds `frame` of sheet time; the number of pieces at the end. */
  indexAtSheet(frame: number) {
    return lastAtOrBefore(this.sheetStarts, frame, this.pieces.length);
  }

  /** Index of the heard piece that holds `frame` of heard time; the number of pieces at the end. */
  indexAtHeard(frame: number) {
    return lastAtOrBefore(this.heardStarts, frame, this.pieces.length);
  }

  /** The heard time of a sheet frame; inside a struck piece, where that piece was skipped. */
  sheetToHeard(frame: number): number {
    if (frame >= this.sheetFrames) return this.heardFrames;
    const index = this.indexAtSheet(Math.max(0, frame));
    const inside = this.pieces[index].struck ? 0 : Math.max(0, frame) - this.sheetStarts[index];
    return this.heardStarts[index] + inside;
  }

  /** The sheet time of a heard frame: after the struck passage where one was skipped. */
  heardToSheet(frame: number): number {
    if (frame >= this.heardFrames) return this.sheetFrames;
    const index = this.indexAtHeard(Math.max(0, frame));
    return this.sheetStarts[index] + Math.max(0, frame) - this.heardStarts[index];
  }

  /** The pieces of sheet range [from, to), cut at its edges. Throws RangeError outside the table. */
  slice(from: number, to: number): Piece[] {
    this.check(from, to);
    const result: Piece[] = [];
    for (let i = this.indexAtSheet(from); i < this.pieces.length && this.sheetStarts[i] < to; i++) {
      const start = Math.max(from, this.sheetStarts[i]);
      const end = Math.min(to, this.sheetStarts[i + 1]);
      if (end > start) result.push(cut(this.pieces[i], start - this.sheetStarts[i], end - start));
    }
    return result;
  }

  /** A table in which sheet range [from, to) is replaced by `pieces`. */
  replace(from: number, to: number, pieces: readonly Piece[]): PieceTable {
    this.check(from, to);
    const first = this.indexAtSheet(from);
    const end = Math.min(
      this.pieces.length,
      to === this.sheetFrames ? this.pieces.length : this.indexAtSheet(to) + 1,
    );
    const before = first < this.pieces.length ? this.slice(this.sheetStarts[first], from) : [];
    const after = end > 0 ? this.slice(to, Math.max(to, this.sheetStarts[end])) : [];
    const result = this.pieces.slice(0, first);
    for (const piece of [...before, ...pieces, ...after]) append(result, piece);
    const rest = this.pieces.slice(end);
    if (rest.length > 0) append(result, rest[0]);
    return new PieceTable(rest.length > 1 ? result.concat(rest.slice(1)) : result);
  }

  /** Sheet ranges that are struck, in order, neighbours joined. */
  struckRanges(from = 0, to = this.sheetFrames): { from: number; to: number }[] {
    const ranges: { from: number; to: number }[] = [];
    for (let i = this.indexAtSheet(from); i < this.pieces.length && this.sheetStarts[i] < to; i++) {
      if (!this.pieces[i].struck) continue;
      const start = Math.max(from, this.sheetStarts[i]);
      const end = Math.min(to, this.sheetStarts[i + 1]);
      const last = ranges[ranges.length - 1];
      if (last && last.to === start) last.to = end;
      else ranges.push({ from: start, to: end });
    }
    return ranges;
  }

  private check(from: number, to: number) {
    if (!(from >= 0 && from <= to && to <= this.sheetFrames)) {
      throw new RangeError(`Frames ${from} to ${to} are not inside 0 to ${this.sheetFrames}`);
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

/** Largest index below `count` whose start is ≤ frame and whose successor's is > frame; `count` at the end. */
function lastAtOrBefore(starts: Float64Array, frame: number, count: number): number {
  let low = 0;
  let high = count;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (starts[middle + 1] <= frame) low = middle + 1;
    else high = middle;
  }
  return low;
}
