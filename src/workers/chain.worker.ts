import { say } from '@/texts/say';
import { ParolaError, cancelled } from '@/core/base/errors';
import { powerToDb } from '@/core/base/units';
import { gridOf } from '@/core/chain/cells';
import type { ChainedVoice } from '@/core/chain/chained';
import { measureWork } from '@/core/chain/chainWork';
import { speechBands } from '@/core/chain/pauses';
import { pictureOf } from '@/core/chain/picture';
import { learnRoom } from '@/core/chain/softerRoom';
import { LongTermSpectrum } from '@/core/dsp/longTermSpectrum';
import { Meter } from '@/core/loudness/measure';
import { findHum } from '@/core/recording/soundCheck';
import { loudnessOfRanges } from '@/core/specs/voiceMatch';
import { ChainedTracks, voiceAlone } from '@/core/timeline/chainedTracks';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { framesOfSounding, tracksOf } from '@/core/timeline/sounding';
import { BlockReader } from '@/storage/blockReader';
import type { ChainedSound, ChainJobs } from './chainJobs';
import { readMedia } from './mediaFile';
import type { JobContext } from './protocol';
import { roomAlone } from './roomAlone';
import { serveJobs } from './serve';

/** The voice that is looked at. */
let shown: { tracks: ChainedTracks; voice: ChainedVoice } | null = null;

const chunkSeconds = 2;

const watching = ({ signal, progress }: JobContext) => ({
  progress: (done: number) => {
    if (signal.aborted) throw cancelled();
    progress(done);
  },
});

function voiceOf({ sounding, sources }: ChainedSound, earlier: ChainedTracks | null = null) {
  return voiceAlone(tracksOf(sounding), new BlockReader(sources), sounding.joins, sounding.rateHz, earlier);
}

serveJobs<ChainJobs>({
  async begin(sound) {
    shown = voiceOf(sound, shown?.tracks ?? null);
    return null;
  },

  async picture({ from, to }, { give }) {
    if (!shown) throw new ParolaError('not-found', say`There is no voice to look at.`);
    const picture = await pictureOf(shown.voice, from, to - from);
    give([...picture.low, ...picture.high, picture.takenDb].map(({ buffer }) => buffer));
    return picture;
  },

  async measure(sound, context) {
    const { sounding } = sound;
    const { voice } = voiceOf(sound);
    const meters = [0, 1].map(() => new Meter(sounding.rateHz, voice.channels));
    const heard = (...both: (readonly Float32Array[])[]) =>
      both.forEach((audio, index) => meters[index].process([...audio]));
    const work = await measureWork(voice, framesOfSounding(sounding), { ...watching(context), heard });
    const [recorded, finished] = meters.map((meter) => meter.finish());
    return { work, recorded, finished };
  },

  async compare({ sounding, sources, range }, context) {
    const reader = new BlockReader(sources);
    const loudness = (chained: boolean) => {
      const tracks = sounding.tracks.map(({ strip, ...track }) =>
        chained && strip ? { ...track, strip } : track,
      );
      const part = new PartRenderer({ ...sounding, tracks }, reader);
      return loudnessOfRanges(part, [range], sounding.rateHz, watching(context));
    };
    return { recorded: await loudness(false), finished: await loudness(true) };
  },

  async learn({ region, before, rateHz, sources }) {
    const { voice, from, frames } = roomAlone(region, new BlockReader(sources), before, rateHz);
    const [samples] = await voice.read(from, frames);
    const bands = await Promise.all(
      speechBands(voice, gridOf(rateHz)).map(async (band) => (await band.read(from, frames))[0]),
    );
    const power = (band: Float32Array) =>
      band.reduce((sum, sample) => sum + sample * sample, 0) / band.length;
    return {
      profile: learnRoom(samples, gridOf(rateHz)),
      roomDb: bands.map((band) => Math.max(-120, Math.round(10 * powerToDb(power(band) + 1e-12)) / 10)),
      hum: findHum((await voice.recorded(from, frames))[0], rateHz),
    };
  },

  async spectrum(sound, context) {
    const { rateHz } = sound.sounding;
    const { voice } = voiceOf(sound);
    const { progress } = watching(context);
    const spectrum = new LongTermSpectrum(rateHz);
    const frames = framesOfSounding(sound.sounding);
    for (let from = 0; from < frames; from += chunkSeconds * rateHz) {
      progress(from / frames);
      const [samples] = await voice.read(from, Math.min(chunkSeconds * rateHz, frames - from));
      spectrum.process(samples);
    }
    return spectrum.finish();
  },

  async fileSpectrum({ file }, { signal }) {
    let spectrum: LongTermSpectrum | null = null;
    for await (const audio of readMedia(file, ({ rateHz }) => (spectrum = new LongTermSpectrum(rateHz)))) {
      if (signal.aborted) throw cancelled();
      const mean = audio[0].map(
        (sample, i) => audio.reduce((sum, channel) => sum + channel[i], 0) / audio.length,
      );
      (spectrum as LongTermSpectrum | null)?.process(mean);
    }
    const done = spectrum as LongTermSpectrum | null;
    if (!done) throw new ParolaError('not-audio', say`There is no sound in “${file.name}”.`);
    return done.finish();
  },
});
