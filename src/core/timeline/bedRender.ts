import { dbToAmplitude } from '../base/units';
import { gainWithin } from './bedSpan';
import type { HeardClip } from './bedTime';
import { fallingGain, risingGain } from './joins';
import type { SourceReader } from './sourceReader';

type Stretch = { at: number; from: number; frames: number };

/**
 * Which source frames a clip plays in [first, last) of its own time: in one stretch, or round and round its
 * loop.
 */
function stretches({ from, loop }: HeardClip, first: number, last: number): Stretch[] {
  if (!loop) return [{ at: first, from: from + first, frames: last - first }];
  const result: Stretch[] = [];
  const period = loop.to - loop.from;
  for (let at = first; at < last;) {
    const straight = from + at;
    const inSource = straight < loop.to ? straight : loop.from + ((straight - loop.to) % period);
    const frames = Math.min(last - at, loop.to - inSource);
    result.push({ at, from: inSource, frames });
    at += frames;
  }
  return result;
}

/** One channel of a clip's own frames [first, last), its loop crossfaded, without level and fades. */
async function plain(
  clip: HeardClip,
  channel: number,
  first: number,
  last: number,
  sources: SourceReader,
): Promise<Float32Array<ArrayBuffer>> {
  const { source, loop } = clip;
  const output = new Float32Array(last - first);
  for (const { at, from, frames } of stretches(clip, first, last)) {
    await readInside(sources, source, channel, from, frames, output, at - first);
    if (!loop) continue;
    // The last frames before the loop ends fade into what leads to its beginning.
    const fade = { from: loop.to - loop.fadeFrames, to: loop.to, shape: loop.shape };
    const fadeFrom = Math.max(from, fade.from);
    const count = from + frames - fadeFrom;
    if (count <= 0) continue;
    const lead = new Float32Array(count);
    await readInside(sources, source, channel, fadeFrom - (loop.to - loop.from), count, lead, 0);
    const offset = at - first + fadeFrom - from;
    for (let i = 0; i < count; i++)
      output[offset + i] =
        output[offset + i] * fallingGain(fade, fadeFrom + i) + lead[i] * risingGain(fade, fadeFrom + i);
  }
  return output;
}

/** Reads what of a range its source has; the rest is silence. */
async function readInside(
  sources: SourceReader,
  source: string,
  channel: number,
  from: number,
  frames: number,
  output: Float32Array,
  offset: number,
) {
  const first = Math.max(0, from);
  const last = Math.min(sources.lengthOf(source), from + frames);
  if (last > first) await sources.read(source, channel, first, last - first, output, offset + first - from);
}

/** Adds samples [from, to) of a clip's channel, in its own frames, to an output; as loud as it is there. */
function addFaded(
  clip: HeardClip,
  own: Float32Array,
  { first, from, gain }: { first: number; from: number; gain: number },
  output: Float32Array,
): void {
  const target = output.subarray(first - from, first - from + own.length);
  const end = own.length;
  const faded = Math.min(end, Math.max(0, clip.at + clip.fadeIn - first));
  const fading = Math.max(faded, Math.min(end, clip.at + clip.frames - clip.fadeOut - first));
  const level = gain * dbToAmplitude(clip.levelDb);
  for (let i = 0; i < faded; i++) target[i] += gain * gainWithin(clip, first + i) * own[i];
  for (let i = faded; i < fading; i++) target[i] += level * own[i];
  for (let i = fading; i < end; i++) target[i] += gain * gainWithin(clip, first + i) * own[i];
}

/**
 * Adds a clip to one or two channels, which stand for heard frames from `from` on, each with its gain; one
 * channel of a clip in stereo is their mean. Any chunking gives the same samples.
 */
export async function addClip(
  clip: HeardClip,
  from: number,
  output: readonly Float32Array[],
  sources: SourceReader,
  gains: readonly number[] = [1, 1],
): Promise<void> {
  const first = Math.max(from, clip.at);
  const last = Math.min(from + output[0].length, clip.at + clip.frames);
  if (last <= first) return;
  const channels = await Promise.all(
    Array.from({ length: clip.channels }, (_, channel) =>
      plain(clip, channel, first - clip.at, last - clip.at, sources),
    ),
  );
  const place = { first, from };
  output.forEach((mixed, index) => {
    const gain = gains[index];
    if (output.length === 1)
      for (const own of channels) addFaded(clip, own, { ...place, gain: gain / channels.length }, mixed);
    else addFaded(clip, channels[index % channels.length], { ...place, gain }, mixed);
  });
}
