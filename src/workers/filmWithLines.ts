import { say } from '@/texts/say';
import {
  ALL_FORMATS,
  AudioSampleSource,
  BlobSource,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  Input,
  MkvOutputFormat,
  Mp4OutputFormat,
  Output,
  WebMOutputFormat,
  canEncodeAudio,
  type AudioCodec,
  type InputVideoTrack,
  type OutputFormat,
  type VideoCodec,
} from 'mediabunny';
import { ParolaError, cancelled } from '@/core/base/errors';
import { within } from '@/core/base/waiting';
import { plainFormat } from '@/core/specs/fileFormat';
import { filmFile } from '@/storage/films';
import type { ExportJobs, WrittenFile } from './exportJobs';
import { answered, cancelMs, samplesOf, streamInto } from './muxing';
import type { JobContext } from './protocol';
import { renderAhead } from './renderAhead';
import { ScratchFile } from './scratchFile';

const soundHz = 48_000;
const soundBitRate = 192_000;
const chunkSeconds = 1;
/** Sound goes into the file so far ahead of its picture, for players that read it from the beginning on. */
const soundAheadSeconds = 1;

/** Forms of a file by what the film was in, with its ending and what its sound can be coded as. */
function formOf(
  mimeType: string,
  codec: VideoCodec,
): { format: OutputFormat; ending: string; codecs: AudioCodec[] } {
  if (/mp4|quicktime/.test(mimeType))
    return { format: new Mp4OutputFormat(), ending: 'mp4', codecs: ['aac', 'opus'] };
  if (/webm/.test(mimeType) || ['vp8', 'vp9', 'av1'].includes(codec))
    return { format: new WebMOutputFormat(), ending: 'webm', codecs: ['opus'] };
  return { format: new MkvOutputFormat(), ending: 'mkv', codecs: ['opus'] };
}

/**
 * Writes the film of a part with another sound: its pictures are copied as they are coded, the sound is coded
 * by the browser. Cancelling leaves nothing behind. Throws ParolaError `not-found`, `unsupported`,
 * `storage-full` or `damaged-file`, where what was written does not read back.
 */
export async function writeFilmWithLines(
  { sourceId, item, sources }: ExportJobs['film']['input'],
  { signal, progress }: JobContext,
): Promise<WrittenFile> {
  const file = await filmFile(sourceId);
  if (!file)
    throw new ParolaError('not-found', say`The picture is not on this machine: choose its file again first.`);
  const input = new Input({ formats: ALL_FORMATS, source: new BlobSource(file) });
  const target = await ScratchFile.create();
  try {
    const track = await input.getPrimaryVideoTrack();
    const codec = await track?.getCodec();
    if (!track || !codec)
      throw new ParolaError('unsupported', say`The picture has no coding that can be copied.`);
    const form = formOf(await input.getMimeType(), codec);
    const audioCodec = await firstOf(form.codecs);
    const output = new Output({ format: form.format, target: streamInto(target) });
    const video = new EncodedVideoPacketSource(codec);
    const audio = new AudioSampleSource({ codec: audioCodec, bitrate: soundBitRate });
    output.addVideoTrack(video, { rotation: await track.getRotation() });
    output.addAudioTrack(audio);
    let copied = 0;
    try {
      await answered(output.start());
      const samples = soundOf(item, sources)[Symbol.asyncIterator]();
      let sounded = 0;
      /** Adds sound until so many seconds; false where it has ended. */
      const soundUntil = async (seconds: number) => {
        while (sounded < seconds) {
          const { done, value } = await samples.next();
          if (done) return;
          sounded = value.timestamp + value.numberOfFrames / soundHz;
          await answered(audio.add(value));
          value.close();
        }
      };
      const seconds = await track.computeDuration();
      const decoderConfig = (await track.getDecoderConfig()) ?? undefined;
      for await (const packet of new EncodedPacketSink(track).packets()) {
        if (signal.aborted) throw cancelled();
        await soundUntil(packet.timestamp + soundAheadSeconds);
        await answered(video.add(packet, copied === 0 ? { decoderConfig } : undefined));
        copied++;
        progress(Math.min(0.97, Math.max(0, packet.timestamp) / Math.max(1, seconds)), item.fileName);
      }
      await soundUntil(Infinity);
      await answered(output.finalize());
    } catch (error) {
      await within(output.cancel(), cancelMs, '').catch(() => undefined);
      throw error;
    }
    const written = await target.close();
    await checkWritten(written, copied);
    return { path: target.path, fileName: `${item.fileName}.${form.ending}`, bytes: written.size };
  } catch (error) {
    await target.discard().catch(() => undefined);
    throw error;
  } finally {
    input.dispose();
  }
}

async function firstOf(codecs: readonly AudioCodec[]): Promise<AudioCodec> {
  const settings = { numberOfChannels: 2, sampleRate: soundHz, bitrate: soundBitRate };
  for (const codec of codecs) if (await canEncodeAudio(codec, settings)) return codec;
  throw new ParolaError('unsupported', say`This browser cannot code the sound of a film.`);
}

function soundOf(
  { sounding, range }: ExportJobs['film']['input']['item'],
  sources: ExportJobs['film']['input']['sources'],
) {
  const { rateHz } = sounding;
  const format = { ...plainFormat, container: 'wav', rateHz: soundHz, channels: 2 } as const;
  const settings = { format, rateHz, frames: range.to - range.from };
  return samplesOf(
    renderAhead({ sounding, sources, range, chunkFrames: chunkSeconds * rateHz, settings }),
    soundHz,
  );
}

/** Opens what was written: every picture and the sound are there. */
async function checkWritten(file: File, pictures: number): Promise<void> {
  const input = new Input({ formats: ALL_FORMATS, source: new BlobSource(file) });
  try {
    const [video, audio] = [await input.getPrimaryVideoTrack(), await input.getPrimaryAudioTrack()];
    const count = video ? await countPackets(video) : 0;
    if (count !== pictures || !audio)
      throw new ParolaError(
        'damaged-file',
        say`Read back, the film has ${count} pictures of ${pictures}${audio ? '' : say` and no sound`}. Write it again; if it stays so, the disk may be failing.`,
      );
  } finally {
    input.dispose();
  }
}

async function countPackets(track: InputVideoTrack): Promise<number> {
  let count = 0;
  for await (const _ of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true }))
    count++;
  return count;
}
