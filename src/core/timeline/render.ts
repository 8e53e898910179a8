import { dbToAmplitude } from '../base/units';
import { fallingGain, heardPieces, risingGain, type HeardPiece, type JoinLengths } from './joins';
import type { PieceTable } from './pieces';
import type { SourceReader } from './sourceReader';
import type { Side } from './timeline';
import { addTone } from './tone';

export type RenderSettings = JoinLengths;

/**
 * What is heard: renders heard frames [from, from + frames) of one track. The only way from pieces to audio; playing, measuring and
 * exporting all use it. The result depends on the range alone, so any chunking gives the same audio.
 */
export async function render(
  table: PieceTable,
  from: number,
  frames: number,
  sources: SourceReader,
  joins: RenderSettings,
): Promise<Float32Array<ArrayBuffer>> {
  const output = new Float32Array(frames);
  const pieces = heardPieces(table, from, from + frames, joins, sources.lengthOf);
  const plain = pieces.find((heard) => isPlainOver(heard, from, from + frames));
  if (plain?.piece.kind === 'audio') {
    const { piece, start } = plain;
    await sources.read(piece.source, piece.channel, piece.from + from - start, frames, output, 0);
    return output;
  }
  const scratch = new Float32Array(frames);
  for (const heard of pieces) await renderPiece(heard, from, output, scratch, sources);
  return output;
}

/** Nothing but one piece of a source, as it is, sounds in heard range [from, to): most of a long recording. */
function isPlainOver(
  { piece, start, end, joinIn, joinOut, fadeIn, fadeOut }: HeardPiece,
  from: number,
  to: number,
) {
  return (
    piece.kind === 'audio' &&
    piece.gainDb === 0 &&
    !fadeIn &&
    !fadeOut &&
    from >= Math.max(start, joinIn?.to ?? start) &&
    to <= Math.min(end, joinOut?.from ?? end)
  );
}

async function renderPiece(
  { piece, start, end, joinIn, joinOut, fadeIn, fadeOut }: HeardPiece,
  from: number,
  output: Float32Array,
  scratch: Float32Array,
  sources: SourceReader,
) {
  if (piece.kind === 'silence') return;
  const first = Math.max(from, joinIn ? joinIn.from : start);
  const last = Math.min(from + output.length, joinOut ? joinOut.to : end);
  if (last <= first) return;
  const at = first - from;
  scratch.fill(0, at, last - from);
  const inSource = piece.from + (first - start);
  if (piece.kind === 'tone') await addTone(piece, inSource, last - first, sources, scratch, at);
  else await sources.read(piece.source, piece.channel, inSource, last - first, scratch, at);
  const gain = dbToAmplitude(piece.gainDb);
  if (gain !== 1) for (let i = at; i < last - from; i++) scratch[i] *= gain;
  for (const ramp of [joinIn, fadeIn]) {
    if (!ramp) continue;
    const until = Math.min(last, ramp.to);
    for (let frame = first; frame < until; frame++) scratch[frame - from] *= risingGain(ramp, frame);
  }
  for (const ramp of [joinOut, fadeOut]) {
    if (!ramp) continue;
    for (let frame = Math.max(first, ramp.from); frame < last; frame++)
      scratch[frame - from] *= fallingGain(ramp, frame);
  }
  for (let i = at; i < last - from; i++) output[i] += scratch[i];
}

/** A track as far as its sound goes. */
export interface SoundingTrack {
  readonly table: PieceTable;
  readonly side?: Side;
}

/** Heard audio in chunks of `chunkFrames`, all tracks in one channel: what a file of this timeline contains. */
export async function* renderMono(
  tracks: readonly SoundingTrack[],
  range: { from: number; to: number },
  chunkFrames: number,
  sources: SourceReader,
  settings: RenderSettings,
): AsyncGenerator<Float32Array<ArrayBuffer>> {
  for (let from = range.from; from < range.to; from += chunkFrames) {
    yield mixMono(tracks, from, Math.min(chunkFrames, range.to - from), sources, settings);
  }
}

/** One chunk of all tracks, summed in their order; the two sides of a pair count half each, which is their mean (*common practice*). */
export async function mixMono(
  tracks: readonly SoundingTrack[],
  from: number,
  frames: number,
  sources: SourceReader,
  settings: RenderSettings,
): Promise<Float32Array<ArrayBuffer>> {
  const rendered = await renderAll(tracks, from, frames, sources, settings);
  if (tracks.length === 1 && !tracks[0].side) return rendered[0];
  return sum(
    frames,
    rendered,
    tracks.map(({ side }) => (side ? 0.5 : 1)),
  );
}

/** The same in two channels where there is a left or a right, in one where there is none. Its mean is what `mixMono` gives. */
export async function mixSides(
  tracks: readonly SoundingTrack[],
  from: number,
  frames: number,
  sources: SourceReader,
  settings: RenderSettings,
): Promise<Float32Array<ArrayBuffer>[]> {
  const rendered = await renderAll(tracks, from, frames, sources, settings);
  const channel = (other: Side) =>
    sum(
      frames,
      rendered,
      tracks.map(({ side }) => (side === other ? 0 : 1)),
    );
  return tracks.some(({ side }) => side) ? [channel('right'), channel('left')] : [channel('right')];
}

const renderAll = (
  tracks: readonly SoundingTrack[],
  from: number,
  frames: number,
  sources: SourceReader,
  settings: RenderSettings,
) => Promise.all(tracks.map(({ table }) => render(table, from, frames, sources, settings)));

function sum(frames: number, rendered: readonly Float32Array[], gains: readonly number[]) {
  const mixed = new Float32Array(frames);
  rendered.forEach((samples, track) => {
    const gain = gains[track];
    if (gain === 1) for (let i = 0; i < frames; i++) mixed[i] += samples[i];
    else if (gain !== 0) for (let i = 0; i < frames; i++) mixed[i] += gain * samples[i];
  });
  return mixed;
}
