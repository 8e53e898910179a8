import { describeFile } from './describe';
import {
  bitRatesOf,
  containers,
  encodingsOf,
  fileSchema,
  fitFormat,
  isLossless,
  plainFormat,
  ratesOf,
  sameFormat,
  type FileFormat,
} from './fileFormat';

const mp3: FileFormat = { ...plainFormat, container: 'mp3', encoding: 'pcm16', rateHz: 44_100 };

test('what a container can be written with', () => {
  expect(containers.map(isLossless)).toEqual([true, true, true, false, false]);
  expect(ratesOf('wav')).toEqual([44_100, 48_000, 96_000]);
  expect(ratesOf('mp3')).toEqual([44_100, 48_000]);
  expect(ratesOf('opus')).toEqual([48_000]);
  expect(encodingsOf('wav')).toEqual(['pcm16', 'pcm24', 'float32']);
  expect(encodingsOf('flac')).toEqual(['pcm16', 'pcm24']);
  expect(encodingsOf('aiff')).toEqual(['pcm16', 'pcm24']);
  expect(encodingsOf('mp3')).toEqual(['pcm16']);
  expect(bitRatesOf('mp3', 1)[0]).toBe(64);
  expect(bitRatesOf('mp3', 2)).toEqual([128, 160, 192, 224, 256, 320]);
  expect(bitRatesOf('opus', 2)[0]).toBe(64);
});

test('a format is fitted to its container, and what fits stays', () => {
  const odd = { ...plainFormat, encoding: 'float32', rateHz: 96_000, bitRateKbps: 64 } as const;
  expect(fitFormat(odd)).toEqual(odd);
  const rich: FileFormat = { ...odd, broadcast: true, marks: true, vbrQuality: 3, channels: 2 };
  const fitted = (container: FileFormat['container']) => fitFormat({ ...rich, container });
  expect(fitted('wav')).toEqual({ ...rich, vbrQuality: null });
  expect(fitted('mp3')).toMatchObject({
    ...{ rateHz: 48_000, encoding: 'pcm16', bitRateKbps: 128 },
    ...{ vbrQuality: 3, broadcast: false, marks: true },
  });
  expect(fitted('opus')).toMatchObject({ rateHz: 48_000, encoding: 'pcm16', bitRateKbps: 64, marks: false });
  expect(fitted('flac')).toMatchObject({ rateHz: 96_000, encoding: 'pcm24', broadcast: false, marks: false });
  for (const container of containers)
    expect(fileSchema.isValidSync(fitted(container), { strict: true })).toBe(true);
});

test('two formats are the same when every field is', () => {
  expect(sameFormat(mp3, { ...mp3 })).toBe(true);
  expect(sameFormat(mp3, { ...mp3, marks: true })).toBe(false);
  expect(sameFormat(mp3, { ...mp3, vbrQuality: 0 })).toBe(false);
});

test('what no encoder writes is refused with what to choose', () => {
  const problem = (changes: Partial<FileFormat>) => {
    try {
      fileSchema.validateSync({ ...mp3, ...changes });
      return null;
    } catch (error) {
      return (error as Error).message;
    }
  };
  expect(problem({})).toBeNull();
  expect(problem({ channels: 2, bitRateKbps: 128 })).toBeNull();
  expect(problem({ channels: 2, bitRateKbps: 112 })).toMatch(/Joint stereo needs at least 128 kbit/);
  expect(problem({ channels: 2, bitRateKbps: 112, vbrQuality: 4 })).toBeNull();
  expect(problem({ channels: 1, bitRateKbps: 64 })).toBeNull();
  expect(problem({ rateHz: 96_000 })).toMatch(/MP3 ends at 48 kHz/);
  expect(problem({ container: 'opus', rateHz: 44_100 })).toMatch(/Opus is always 48 kHz/);
  expect(problem({ bitRateKbps: 100 })).toMatch(/one of the steps/);
});

test.each<[Partial<FileFormat>, string]>([
  [{}, 'MP3 · 192 kbit/s · 44.1 kHz · mono'],
  [{ channels: 2, vbrQuality: 2 }, 'MP3 · variable bit rate, quality 2 · 44.1 kHz · joint stereo'],
  [{ marks: true }, 'MP3 · 192 kbit/s · 44.1 kHz · mono · chapters'],
  [
    { container: 'wav', broadcast: true, marks: true },
    'Broadcast WAV · 16-bit · 44.1 kHz · mono · dithered · cue points',
  ],
  [{ container: 'wav', encoding: 'float32', channels: 2 }, 'WAV · 32-bit float · 44.1 kHz · stereo'],
  [{ container: 'flac', encoding: 'pcm24', broadcast: true }, 'FLAC · 24-bit · 44.1 kHz · mono'],
  [{ container: 'aiff', dither: false }, 'AIFF · 16-bit · 44.1 kHz · mono'],
  [
    { container: 'opus', rateHz: 48_000, bitRateKbps: 64, dither: true },
    'Ogg Opus · 64 kbit/s · 48 kHz · mono',
  ],
])('%j is told as “%s”', (changes, text) => {
  expect(describeFile({ ...mp3, ...changes })).toBe(text);
});
