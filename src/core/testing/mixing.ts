import type { Clip } from '../timeline/bedClips';
import type { SourceReader } from '../timeline/sourceReader';

/** Recordings held in memory: a list of channels by the id of their source. */
export function memorySources(recordings: Readonly<Record<string, readonly Float32Array[]>>): SourceReader {
  return {
    lengthOf: (source) => recordings[source][0].length,
    read: (source, channel, from, frames, output, offset) => {
      const samples = recordings[source][channel];
      if (from < 0 || from + frames > samples.length) throw new RangeError(`${source} ends before that`);
      output.set(samples.subarray(from, from + frames), offset);
      return Promise.resolve();
    },
  };
}

/** A clip of a source from its first frame on, at the start of the part, as it is. */
export const plainClip = (source: string, length: number, more: Partial<Clip> = {}): Clip => ({
  id: `clip-${source}`,
  source,
  channels: 1,
  from: 0,
  length,
  levelDb: 0,
  begin: { moment: { kind: 'start' }, after: 0 },
  end: 'sound',
  fadeIn: 0,
  fadeOut: 0,
  loop: null,
  ...more,
});
