import { dbToAmplitude } from '../base/units';
import { fallingGain, heardPieces, risingGain, type HeardPiece, type JoinLengths } from './joins';
import type { PieceTable } from './pieces';
import type { SourceReader } from './sourceReader';
import { addTone } from './tone';

/**
 * Renders frames [from, from + frames) of one track's heard table (see heard.ts): the only way from pieces to
 * audio. The result depends on the range alone, so any chunking gives the same audio.
 */
export async function render(
  table: PieceTable,
  from: number,
  frames: number,
  sources: SourceReader,
  joins: JoinLengths,
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

/**
 * Nothing but one piece of a source, as it is, sounds in heard range [from, to): most of a long recording.
 */
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
