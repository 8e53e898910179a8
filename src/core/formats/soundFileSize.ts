import type { FileFormat } from '../specs/fileFormat';
import { bextChunk } from './bext';
import { infoFrameBytes } from './mp3Info';
import { fileFrames, fileMarks, tagOf, wavFormat, type SoundFileSettings } from './soundFile';
import { wavMarkChunks } from './wavMarks';
import { bytesPerSample, wavHeader } from './wavWriter';

/**
 * Speech takes about this share of its PCM size in FLAC; measured on the demo, only for a size that is told
 * beforehand.
 */
const flacShare = { pcm16: 0.46, pcm24: 0.64, float32: 0.64 };
/** What LAME's variable bit rate comes to for speech in mono, kbit/s by quality; measured on the demo. */
const vbrKbps = [149, 133, 118, 111, 100, 85, 71];
/** The same voice in both sides of joint stereo takes this much more. */
const vbrStereo = 1.15;

/**
 * Bytes the file will have; exact for WAV and AIFF, within two frames for MP3 of a constant bit rate, else a
 * guess.
 */
export function predictBytes(settings: SoundFileSettings): number {
  const { format } = settings;
  const frames = fileFrames(settings);
  const data = frames * bytesPerSample(format.encoding) * format.channels;
  switch (format.container) {
    case 'wav': {
      const marks = format.marks ? wavMarkChunks(fileMarks(settings)) : new Uint8Array(0);
      const chunks = settings.broadcast && bextChunk(settings.broadcast);
      return (
        wavHeader(wavFormat(format), frames, chunks, marks.length).length + data + (data % 2) + marks.length
      );
    }
    case 'aiff':
      return 54 + data + (data % 2);
    case 'flac':
      return Math.round(data * flacShare[format.encoding]);
    default: {
      const kbps =
        format.vbrQuality === null
          ? format.bitRateKbps
          : vbrKbps[format.vbrQuality] * (format.channels === 2 ? vbrStereo : 1);
      const tag = format.container === 'mp3' ? tagOf(settings).length : 300;
      return Math.round(((frames / format.rateHz) * kbps * 1000) / 8) + 2 * infoFrameBytes(format) + tag;
    }
  }
}

/** True when a size that is told beforehand is not a guess. */
export const isSizeKnown = ({ container, vbrQuality }: FileFormat) =>
  container === 'wav' || container === 'aiff' || (container === 'mp3' && vbrQuality === null);
