import type { SourceReader } from './sourceReader';
import type { TonePiece, ToneRegion } from './pieces';

/**
 * Endless room tone from a region of a recording: grains of half the region, each from another place in it,
 * overlapping by a quarter of themselves in a crossfade of equal power. The places are scattered, by turns
 * over the first and the second half of what is possible, so that neighbours lie apart and no distance comes
 * back: there is no period to hear. What stands at a frame of the tone depends on region, seed and frame
 * alone.
 */
const grainShare = 0.5;
const overlapShare = 0.25;
/** A region shorter than this has no room for grains. */
export const shortestToneFrames = 64;

/** A number in [0, 1) for a grain, scattered by mixing the bits of seed and count. */
function scattered(seed: number, k: number): number {
  let mixed = Math.imul(seed ^ Math.imul(k, 0x9e3779b1), 0x85ebca6b);
  mixed = Math.imul(mixed ^ (mixed >>> 13), 0xc2b2ae35);
  return ((mixed ^ (mixed >>> 16)) >>> 0) / 4294967296;
}

function grainsOf({ start, end }: ToneRegion) {
  const frames = Math.max(1, Math.floor((end - start) * grainShare));
  const overlap = Math.floor(frames * overlapShare);
  return { frames, overlap, hop: frames - overlap, room: end - start - frames };
}

/**
 * Adds tone frames [from, from + frames) of a piece's endless tone, at gain 1, to `output` at `offset`. Audio
 * that storage has lost stays silent. Throws RangeError for a region without frames.
 */
export async function addTone(
  piece: Pick<TonePiece, keyof ToneRegion | 'seed'>,
  from: number,
  frames: number,
  sources: SourceReader,
  output: Float32Array,
  offset: number,
): Promise<void> {
  if (piece.end - piece.start < shortestToneFrames)
    throw new RangeError(`No tone from frames ${piece.start} to ${piece.end}`);
  const grain = grainsOf(piece);
  const first = Math.floor((from - grain.frames) / grain.hop) + 1;
  for (let k = first; k * grain.hop < from + frames; k++) {
    const at = k * grain.hop;
    const begin = Math.max(from, at);
    const end = Math.min(from + frames, at + grain.frames);
    if (end <= begin) continue;
    const share = ((k & 1) + scattered(piece.seed, k)) / 2;
    const place = piece.start + Math.floor(share * (grain.room + 1));
    const samples = new Float32Array(end - begin);
    await sources.read(piece.source, piece.channel, place + begin - at, samples.length, samples, 0);
    for (let i = 0; i < samples.length; i++) {
      const inside = begin - at + i;
      const rising = inside < grain.overlap ? Math.sin((Math.PI / 2) * ((inside + 0.5) / grain.overlap)) : 1;
      const left = grain.frames - inside - 0.5;
      const falling = left < grain.overlap ? Math.sin((Math.PI / 2) * (left / grain.overlap)) : 1;
      output[offset + begin - from + i] += samples[i] * rising * falling;
    }
  }
}
