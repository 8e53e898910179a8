import type { ByteSource } from './bytes';
import { readFlacInfo } from './flacDecoder';
import { soundStart } from './mp3Decoder';
import { parseMp3Header, readGapless, readInfoFields } from './mp3Info';

/** Longer than any frame of MPEG-1 Layer III. */
const mp3FrameBytes = 2048;

/** The beginning of a file whose rest is not at hand. */
const beginning = (bytes: Uint8Array<ArrayBuffer>): ByteSource => ({
  size: Infinity,
  read: async (offset, length) => bytes.subarray(offset, offset + length),
});

/** What a beginning says of the sound behind it, but for what no decoder goes by. */
async function statedIn(container: FollowableContainer, source: ByteSource): Promise<unknown> {
  switch (container) {
    case 'flac': {
      const { info, firstFrame } = await readFlacInfo(source);
      const { rateHz, bits, longestBlock, channels } = info;
      return { rateHz, bits, longestBlock, channels, firstFrame };
    }
    case 'mp3': {
      const at = await soundStart(source);
      const bytes = await source.read(at, mp3FrameBytes);
      return {
        at,
        header: parseMp3Header(bytes, 0),
        gapless: readGapless(bytes),
        frames: readInfoFields(bytes)?.frames,
      };
    }
  }
}

/** Containers whose audio can be decoded before their header is finished. */
export type FollowableContainer = 'flac' | 'mp3';

/**
 * Whether a decoder that was given the first beginning of a file would have heard the same from the second:
 * what stands in a header from the start is the same, and what was filled in agrees with the `frames` that
 * were decoded. Throws as the readers of these formats do.
 */
export async function sameHeader(
  container: FollowableContainer,
  first: Uint8Array<ArrayBuffer>,
  second: Uint8Array<ArrayBuffer>,
  frames: number,
): Promise<boolean> {
  if (container === 'flac') {
    const { totalFrames } = (await readFlacInfo(beginning(second))).info;
    if (totalFrames !== 0 && totalFrames !== frames) return false;
  }
  const [before, after] = await Promise.all([
    statedIn(container, beginning(first)),
    statedIn(container, beginning(second)),
  ]);
  return JSON.stringify(before) === JSON.stringify(after);
}
