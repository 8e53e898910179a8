import { spectrogram, spectrogramRows, spectrogramSize } from '@/core/dsp/spectrogram';
import { BlockReader } from '@/storage/blockReader';
import type { AnalysisJobs } from './analysisJobs';

/** Columns further apart than this are read one by one: the audio between them is not looked at. */
const sparseFrames = 4096;

export async function pictureOf({
  source,
  channel,
  sourceFrames,
  rateHz,
  from,
  columns,
  framesPerColumn,
}: AnalysisJobs['spectrogram']['input']): Promise<Uint8Array> {
  const reader = new BlockReader([{ id: source, frames: sourceFrames }]);
  const read = async (first: number, frames: number) => {
    const samples = new Float32Array(frames);
    const begin = Math.max(0, first);
    const end = Math.min(sourceFrames, first + frames);
    if (end > begin) await reader.read(source, channel, begin, end - begin, samples, begin - first);
    return samples;
  };
  const size = spectrogramSize(framesPerColumn);
  if (framesPerColumn <= sparseFrames) {
    const samples = await read(from - size, columns * framesPerColumn + 2 * size);
    return spectrogram(samples, rateHz, size, columns, framesPerColumn);
  }
  const picture = new Uint8Array(columns * spectrogramRows);
  for (let column = 0; column < columns; column++) {
    const centre = from + Math.round((column + 0.5) * framesPerColumn);
    const samples = await read(centre - size / 2, size);
    picture.set(
      spectrogram(samples, rateHz, size / 2 - framesPerColumn / 2, 1, framesPerColumn),
      column * spectrogramRows,
    );
  }
  return picture;
}
