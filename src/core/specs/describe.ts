import { say, written } from '../../texts/say';
import { containerNames, isLossless, type FileFormat } from './fileFormat';
import { measureLabels, measures, rmsMeasures } from './measures';
import type { Spec } from './spec';
import { describeLimit } from './verdicts';

const encodings = { pcm16: '16-bit', pcm24: '24-bit', float32: '32-bit float' } as const;

/** “MP3 · 192 kbit/s · 44.1 kHz · mono”. */
export function describeFile(format: FileFormat): string {
  const { container, encoding, bitRateKbps, rateHz, dither, channels, vbrQuality } = format;
  const coding = isLossless(container)
    ? encodings[encoding]
    : vbrQuality !== null
      ? say`variable bit rate, quality ${vbrQuality}`
      : `${bitRateKbps} kbit/s`;
  const name = container === 'wav' && format.broadcast ? say`Broadcast WAV` : containerNames[container];
  const stereo = container === 'mp3' ? say`joint stereo` : say`stereo`;
  const extras = [
    isLossless(container) && encoding === 'pcm16' && dither && say`dithered`,
    format.marks && (container === 'mp3' ? say`chapters` : say`cue points`),
  ].filter((extra) => typeof extra === 'string');
  return [name, coding, `${written(rateHz / 1000)} kHz`, channels === 1 ? say`mono` : stereo, ...extras].join(
    ' · ',
  );
}

/** All limits and files of a specification, in one sentence. */
export function describeSpec(spec: Spec): string {
  const limits = measures.flatMap((measure) => {
    const limit = spec.limits[measure];
    if (!limit || (limit.min === null && limit.max === null)) return [];
    return [`${measureLabels[measure].name} ${describeLimit(measure, limit)}`];
  });
  return `${[...limits, ...[spec.file, ...spec.more].map(describeFile)].join('; ')}.`;
}

/** What the RMS figures of a spec are against, for the line beside them. */
export const describeRms = ({ rmsConvention, limits }: Spec) =>
  rmsConvention === 'sine'
    ? say`RMS against a full-scale sine (AES17: a full-scale sine is 0 dBFS)`
    : rmsMeasures.some((measure) => limits[measure])
      ? say`RMS against full scale 1.0 (a full-scale sine is −3.01 dBFS)`
      : say`RMS against full scale 1.0`;
