import { findLoopSeam } from '@/core/dsp/loopSeam';
import { findLoopback } from '@/core/recording/loopback';
import { measureSoundCheck, roomLevelDbfs } from '@/core/recording/soundCheck';
import { lagAlong } from '@/core/speech/lag';
import { findSpeech } from '@/core/speech/voiceActivity';
import { PieceTable } from '@/core/timeline/pieces';
import { render } from '@/core/timeline/render';
import { BlockReader } from '@/storage/blockReader';
import { alignRecordings } from './alignRecordings';
import type { AnalysisJobs, SourceStretch } from './analysisJobs';
import { findInRange } from './findInRange';
import { pictureOf } from './spectrogramTile';
import { serveJobs } from './serve';

async function read({ source, from, frames }: SourceStretch): Promise<Float32Array> {
  const samples = new Float32Array(frames);
  await new BlockReader([{ id: source, frames: from + frames }]).read(source, 0, from, frames, samples, 0);
  return samples;
}

/** Short questions the recording asks; apart from measuring, so that they never wait for it. */
serveJobs<AnalysisJobs>({
  find: findInRange,
  spectrogram: pictureOf,

  async speech({ pieces, range, sources, rateHz }) {
    // In sheet time, so struck passages are heard as well; joins do not matter here.
    const table = PieceTable.of(pieces);
    const audio = await render(table, range.from, range.to - range.from, new BlockReader(sources), {
      joinFrames: 0,
    });
    return findSpeech(audio, rateHz).map(({ from, to }) => ({
      from: from + range.from,
      to: to + range.from,
    }));
  },

  async loopSeam({ source, from, frames, channels, rateHz, marginFrames }) {
    const reader = new BlockReader([{ id: source, frames: from + frames }]);
    const mono = new Float32Array(frames);
    const samples = new Float32Array(frames);
    for (let channel = 0; channel < channels; channel++) {
      await reader.read(source, channel, from, frames, samples, 0);
      for (let i = 0; i < frames; i++) mono[i] += samples[i] / channels;
    }
    const seam = findLoopSeam(mono, rateHz, marginFrames);
    return seam && { ...seam, from: from + seam.from, to: from + seam.to };
  },

  lag: ({ voice, guide, stepSeconds }) => Promise.resolve(lagAlong(voice, guide, stepSeconds)),

  align: alignRecordings,

  async soundCheck({ silent, normal, loudest, rateHz }) {
    const [quiet, read1, read2] = await Promise.all([silent, normal, loudest].map(read));
    return measureSoundCheck(quiet, read1, read2, rateHz);
  },

  async roomLevel({ silent, rateHz }) {
    return roomLevelDbfs(await read(silent), rateHz);
  },

  async loopback({ captured, rateHz }) {
    return findLoopback(await read(captured), rateHz);
  },
});
