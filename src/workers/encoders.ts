import { say } from '@/texts/say';
import { registerFlacEncoder } from '@mediabunny/flac-encoder';
import { createMD5 } from 'hash-wasm';
import {
  AudioSample,
  AudioSampleSource,
  FlacOutputFormat,
  OggOutputFormat,
  Output,
  canEncodeAudio,
  type OutputFormat,
} from 'mediabunny';
import type { Planar } from '@/core/base/audio';
import { ParolaError } from '@/core/base/errors';
import { within } from '@/core/base/waiting';
import { viewOf, type ByteTarget } from '@/core/formats/bytes';
import { createMp3Encoder } from '@/core/formats/mp3Encoder';
import type { Encoders, PcmStream } from '@/core/formats/soundFile';
import type { FileFormat } from '@/core/specs/fileFormat';
import { answered, cancelMs, samplesOf, streamInto, type Planned } from './muxing';

/** STREAMINFO is always the first block, after “fLaC”. */
const streamInfoAt = 4;
/** Where it keeps the MD5 of the unencoded audio (RFC 9639, 8.2): after its block header and 18 bytes. */
const md5At = 26;

/** The encoder makes frames of so many samples, as libFLAC does unless it is told otherwise. */
const flacBlockFrames = 4096;

/**
 * STREAMINFO as far as it is known before the first frame (RFC 9639, 8.2), with its block header, the only
 * one there is: who reads along can decode. The library leaves it empty until the end.
 */
function plannedStreamInfo({ rateHz, channels, bytesPerSample }: PcmStream): Uint8Array {
  const block = new Uint8Array(38);
  const view = viewOf(block);
  view.setUint32(0, 0x8000_0022);
  view.setUint16(4, flacBlockFrames);
  view.setUint16(6, flacBlockFrames);
  const packed = (BigInt(rateHz) << 44n) | (BigInt(channels - 1) << 41n);
  view.setBigUint64(14, packed | (BigInt(8 * bytesPerSample - 1) << 36n));
  return block;
}

async function encode(
  format: OutputFormat,
  codec: { codec: 'flac' } | { codec: 'opus'; bitrate: number },
  samples: AsyncIterable<AudioSample>,
  target: ByteTarget,
  planned: Planned | null = null,
): Promise<void> {
  const output = new Output({ format, target: streamInto(target, planned) });
  const source = new AudioSampleSource(codec);
  output.addAudioTrack(source);
  try {
    await answered(output.start());
    for await (const sample of samples) {
      await answered(source.add(sample));
      sample.close();
    }
    await answered(output.finalize());
  } catch (error) {
    await within(output.cancel(), cancelMs, '').catch(() => undefined);
    throw error;
  }
}

/**
 * FLAC by libFLAC as WebAssembly (@mediabunny/flac-encoder, MPL-2.0); the checksum it leaves empty is filled
 * in.
 */
async function writeFlac(pcm: PcmStream, target: ByteTarget): Promise<void> {
  registerFlacEncoder();
  const md5 = await createMD5();
  md5.init();
  async function* samples() {
    let frames = 0;
    for await (const bytes of pcm.bytes) {
      if (bytes.length === 0) continue;
      md5.update(bytes);
      const sample = new AudioSample({
        data: pcm.bytesPerSample === 2 ? bytes : widened(bytes),
        format: pcm.bytesPerSample === 2 ? 's16' : 's32',
        numberOfChannels: pcm.channels,
        sampleRate: pcm.rateHz,
        timestamp: frames / pcm.rateHz,
      });
      frames += sample.numberOfFrames;
      yield sample;
    }
  }
  const planned = { at: streamInfoAt, bytes: plannedStreamInfo(pcm) };
  await encode(new FlacOutputFormat(), { codec: 'flac' }, samples(), target, planned);
  await target.patch(md5At, md5.digest('binary'));
}

/** 24-bit samples at the top of 32-bit ones. */
function widened(bytes: Uint8Array): Int32Array<ArrayBuffer> {
  const samples = new Int32Array(bytes.length / 3);
  for (let i = 0, at = 0; i < samples.length; i++, at += 3)
    samples[i] = (bytes[at] << 8) | (bytes[at + 1] << 16) | (bytes[at + 2] << 24);
  return samples;
}

/** Ogg Opus by the browser's own encoder (WebCodecs). Throws `unsupported` where there is none. */
async function writeOpus(
  audio: AsyncIterable<Planar>,
  { rateHz, channels, bitRateKbps }: FileFormat,
  target: ByteTarget,
): Promise<void> {
  const settings = { numberOfChannels: channels, sampleRate: rateHz, bitrate: bitRateKbps * 1000 };
  if (!(await canEncodeAudio('opus', settings)))
    throw new ParolaError('unsupported', say`This browser cannot write Opus. Choose MP3 or FLAC.`);
  await encode(
    new OggOutputFormat(),
    { codec: 'opus', bitrate: settings.bitrate },
    samplesOf(audio, rateHz),
    target,
  );
}

export const encoders: Encoders = { createMp3: createMp3Encoder, writeFlac, writeOpus };
