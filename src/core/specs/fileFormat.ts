import { say } from '../../texts/say';
import { boolean, number, object, string, type InferType } from 'yup';

export const containers = ['wav', 'aiff', 'flac', 'mp3', 'opus'] as const;
export type Container = (typeof containers)[number];
export const containerNames: Record<Container, string> = {
  wav: 'WAV',
  aiff: 'AIFF',
  flac: 'FLAC',
  mp3: 'MP3',
  opus: say`Ogg Opus`,
};
/** Containers that give back the samples that went in. */
export const isLossless = (container: Container) => container !== 'mp3' && container !== 'opus';

export const sampleRatesHz = [44_100, 48_000, 96_000] as const;
export const bitRatesKbps = [64, 80, 96, 112, 128, 160, 192, 224, 256, 320] as const;
export const channelCounts = [1, 2] as const;
/** 0 is the best and largest. */
export const vbrQualities = [0, 1, 2, 3, 4, 5, 6] as const;

/** The rates a container can be written at. */
export const ratesOf = (container: Container) =>
  sampleRatesHz.filter((rate) =>
    container === 'mp3' ? rate <= 48_000 : container === 'opus' ? rate === 48_000 : true,
  );

/** Below this, LAME lowers the sample rate of two channels by itself (measured). */
const leastStereoMp3Kbps = 128;

/** The constant bit rates a file of so many channels can have. */
export const bitRatesOf = (container: Container, channels: number) =>
  bitRatesKbps.filter((kbps) => container !== 'mp3' || channels === 1 || kbps >= leastStereoMp3Kbps);

/** The sample codings a container can be written in; of lossy ones, the one the encoder is fed with. */
export const encodingsOf = (container: Container) =>
  container === 'wav'
    ? (['pcm16', 'pcm24', 'float32'] as const)
    : container === 'flac' || container === 'aiff'
      ? (['pcm16', 'pcm24'] as const)
      : (['pcm16'] as const);

export const fileSchema = object({
  container: string()
    .oneOf([...containers], say`The file format is WAV, AIFF, FLAC, MP3 or Opus.`)
    .required(),
  encoding: string().oneOf(['pcm16', 'pcm24', 'float32']).required(),
  dither: boolean().required(),
  bitRateKbps: number()
    .oneOf([...bitRatesKbps], say`The bit rate is one of the steps from 64 to 320 kbit/s.`)
    .required()
    .when(['container', 'channels', 'vbrQuality'], ([container, channels, vbrQuality], schema) =>
      container === 'mp3' && channels === 2 && (vbrQuality ?? null) === null
        ? schema.min(
            leastStereoMp3Kbps,
            say`Joint stereo needs at least ${leastStereoMp3Kbps} kbit/s: choose that, or mono.`,
          )
        : schema,
    ),
  rateHz: number()
    .oneOf([...sampleRatesHz], say`The sample rate is 44.1, 48 or 96 kHz.`)
    .required()
    .when('container', {
      is: 'mp3',
      then: (schema) => schema.max(48_000, say`MP3 ends at 48 kHz: choose 44.1 or 48 kHz, or WAV.`),
    })
    .when('container', {
      is: 'opus',
      // A second list would be added to the first, not take its place.
      then: (schema) =>
        schema.test({ message: say`Opus is always 48 kHz: choose 48 kHz.`, test: (rate) => rate === 48_000 }),
    }),
  /** 1: mono. 2: left and right; of a voice in the middle, the same in both. */
  channels: number()
    .oneOf([...channelCounts])
    .default(1),
  /** MP3 only: quality of a variable bit rate; null for a constant one. */
  vbrQuality: number()
    .nullable()
    .oneOf([...vbrQualities])
    .default(null),
  /** WAV only: a Broadcast WAV with origin, time and measured loudness. */
  broadcast: boolean().default(false),
  /** Marks go into the file: cue points of a WAV, chapters of an MP3. */
  marks: boolean().default(false),
});

export type FileFormat = InferType<typeof fileSchema>;

/** Two formats that would write the same file. */
export const sameFormat = (a: FileFormat, b: FileFormat) =>
  (Object.keys(a) as (keyof FileFormat)[]).every((key) => a[key] === b[key]);

/** The format as near to what is asked as its container allows. */
export function fitFormat(format: FileFormat): FileFormat {
  const rates: readonly number[] = ratesOf(format.container);
  const bitRates: readonly number[] = bitRatesOf(format.container, format.channels);
  const encodings: readonly FileFormat['encoding'][] = encodingsOf(format.container);
  return {
    ...format,
    rateHz: rates.includes(format.rateHz) ? format.rateHz : rates[rates.length - 1],
    encoding: encodings.includes(format.encoding) ? format.encoding : encodings[encodings.length - 1],
    bitRateKbps: bitRates.includes(format.bitRateKbps) ? format.bitRateKbps : leastStereoMp3Kbps,
    vbrQuality: format.container === 'mp3' ? format.vbrQuality : null,
    broadcast: format.container === 'wav' && format.broadcast,
    marks: (format.container === 'wav' || format.container === 'mp3') && format.marks,
  };
}

/** 24-bit WAV in mono at 48 kHz: what is not said otherwise. */
export const plainFormat: FileFormat = {
  container: 'wav',
  encoding: 'pcm24',
  dither: true,
  bitRateKbps: 192,
  rateHz: 48_000,
  channels: 1,
  vbrQuality: null,
  broadcast: false,
  marks: false,
};
