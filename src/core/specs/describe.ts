import { measureLabels, measures, type FileFormat, type Spec } from './spec';
import { describeLimit } from './verdicts';

const encodings = { pcm16: '16-bit', pcm24: '24-bit', float32: '32-bit float' } as const;

/** “MP3 · 192 kbit/s · 44.1 kHz · mono”. */
export function describeFile({ container, encoding, bitRateKbps, rateHz, dither }: FileFormat): string {
  const coding = container === 'mp3' ? `${bitRateKbps} kbit/s` : encodings[encoding];
  const dithered = container === 'wav' && encoding === 'pcm16' && dither ? ['dithered'] : [];
  return [container.toUpperCase(), coding, `${rateHz / 1000} kHz`, 'mono', ...dithered].join(' · ');
}

/** All limits and the file of a specification, in one sentence. */
export function describeSpec(spec: Spec): string {
  const limits = measures.flatMap((measure) => {
    const limit = spec.limits[measure];
    if (!limit || (limit.min === null && limit.max === null)) return [];
    return [`${measureLabels[measure].name} ${describeLimit(measure, limit)}`];
  });
  return [...limits, describeFile(spec.file)].join('; ') + '.';
}
