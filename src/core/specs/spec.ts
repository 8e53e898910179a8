import { array, boolean, number, object, string, type InferType } from 'yup';

/** What a specification can limit; each is a field of Measurement with the same name. */
export const measures = [
  'integratedLufs',
  'loudnessRangeLu',
  'truePeakDbtp',
  'samplePeakDbfs',
  'rmsDbfs',
  'noiseFloorDbfs',
  'headSeconds',
  'tailSeconds',
  'durationSeconds',
] as const;
export type Measure = (typeof measures)[number];

export const measureLabels: Record<Measure, { name: string; unit: string }> = {
  integratedLufs: { name: 'Loudness', unit: 'LUFS' },
  loudnessRangeLu: { name: 'Range', unit: 'LU' },
  truePeakDbtp: { name: 'True peak', unit: 'dBTP' },
  samplePeakDbfs: { name: 'Sample peak', unit: 'dBFS' },
  rmsDbfs: { name: 'RMS', unit: 'dBFS' },
  noiseFloorDbfs: { name: 'Room', unit: 'dBFS' },
  headSeconds: { name: 'Head', unit: 's' },
  tailSeconds: { name: 'Tail', unit: 's' },
  durationSeconds: { name: 'Length', unit: 's' },
};

const bounds: Record<Measure, { low: number; high: number }> = {
  integratedLufs: { low: -70, high: 0 },
  loudnessRangeLu: { low: 0, high: 60 },
  truePeakDbtp: { low: -60, high: 6 },
  samplePeakDbfs: { low: -60, high: 0 },
  rmsDbfs: { low: -70, high: 0 },
  noiseFloorDbfs: { low: -120, high: 0 },
  headSeconds: { low: 0, high: 60 },
  tailSeconds: { low: 0, high: 60 },
  durationSeconds: { low: 0, high: 86_400 },
};

const limitSchema = (measure: Measure) => {
  const { name, unit } = measureLabels[measure];
  const { low, high } = bounds[measure];
  const edge = (which: string) =>
    number()
      .typeError(`${name}: the ${which} is a number in ${unit}, or empty for none.`)
      .min(low, `${name}: nothing under ${low} ${unit} makes sense as a limit.`)
      .max(high, `${name}: nothing over ${high} ${unit} makes sense as a limit.`)
      .nullable()
      .default(null);
  return object({
    min: edge('lowest'),
    max: edge('highest').test({
      name: 'order',
      message: `${name}: the lowest allowed is above the highest. Swap them or clear one.`,
      test: (max, { parent }) =>
        max === null ||
        max === undefined ||
        parent.min === null ||
        parent.min === undefined ||
        parent.min <= max,
    }),
  })
    .nullable()
    .default(null);
};

export const sampleRatesHz = [44_100, 48_000, 96_000] as const;
export const mp3BitRatesKbps = [128, 160, 192, 224, 256, 320] as const;

const fileSchema = object({
  container: string().oneOf(['wav', 'mp3'], 'The file format is WAV or MP3.').required(),
  encoding: string().oneOf(['pcm16', 'pcm24', 'float32']).required(),
  dither: boolean().required(),
  bitRateKbps: number()
    .oneOf([...mp3BitRatesKbps])
    .required(),
  rateHz: number()
    .oneOf([...sampleRatesHz], 'The sample rate is 44.1, 48 or 96 kHz.')
    .required()
    .when('container', {
      is: 'mp3',
      then: (schema) => schema.max(48_000, 'MP3 ends at 48 kHz: choose 44.1 or 48 kHz, or WAV.'),
    }),
});

const limitFields = Object.fromEntries(measures.map((measure) => [measure, limitSchema(measure)])) as Record<
  Measure,
  ReturnType<typeof limitSchema>
>;

/** A delivery specification. Also the schema of specs in stored projects and project files. */
export const specSchema = object({
  name: string().trim().required('Give the spec a name.').max(60, 'A spec name has at most 60 letters.'),
  note: string().default(''),
  limits: object(limitFields).required(),
  /** Where loud speech should peak while recording, dBFS. */
  aimPeakDbfs: object({
    min: number().min(-60).max(0).required(),
    max: number()
      .min(-60)
      .max(0)
      .required()
      .test({
        name: 'order',
        message: 'Aim: the lower edge is above the upper edge. Swap them.',
        test: (max, { parent }) => parent.min < max,
      }),
  }).required(),
  file: fileSchema.required(),
  channels: array(number().required()).required(),
});

export type Spec = InferType<typeof specSchema>;
export type Limit = { min: number | null; max: number | null };
export type FileFormat = Spec['file'];

const noLimits = Object.fromEntries(measures.map((measure) => [measure, null])) as Record<
  Measure,
  Limit | null
>;
const wav24: FileFormat = {
  container: 'wav',
  encoding: 'pcm24',
  dither: true,
  bitRateKbps: 192,
  rateHz: 48_000,
};
const mp3: FileFormat = {
  container: 'mp3',
  encoding: 'pcm16',
  dither: true,
  bitRateKbps: 192,
  rateHz: 44_100,
};
const between = (min: number | null, max: number | null): Limit => ({ min, max });
const quietRoomAim = { min: -18, max: -6 };

/** The specifications a project can start from; sources beside each. Values from memory. */
export const builtInSpecs: readonly Spec[] = [
  {
    // Common practice of audiobook retail.
    name: 'Audiobook retail',
    note: 'One part a file, at most 120 minutes, mono or stereo the same throughout.',
    limits: {
      ...noLimits,
      rmsDbfs: between(-23, -18),
      samplePeakDbfs: between(null, -3),
      noiseFloorDbfs: between(null, -60),
      headSeconds: between(0.5, 1),
      tailSeconds: between(1, 5),
      durationSeconds: between(null, 7200),
    },
    aimPeakDbfs: quietRoomAim,
    file: mp3,
    channels: [1, 2],
  },
  {
    // Common practice: 3 LU below the −16 LUFS usual for stereo (AES TD1004 gives −16 to −20 LUFS, at most −1 dBTP).
    name: 'Podcast mono',
    note: 'A mono file at −19 LUFS sounds as loud from two speakers as stereo at −16.',
    limits: { ...noLimits, integratedLufs: between(-20, -18), truePeakDbtp: between(null, -1) },
    aimPeakDbfs: quietRoomAim,
    file: mp3,
    channels: [1],
  },
  {
    // EBU R 128.
    name: 'Broadcast EU',
    note: 'EBU R 128: −23.0 ± 0.5 LUFS, at most −1 dBTP.',
    limits: { ...noLimits, integratedLufs: between(-23.5, -22.5), truePeakDbtp: between(null, -1) },
    aimPeakDbfs: quietRoomAim,
    file: wav24,
    channels: [1, 2, 5, 6],
  },
  {
    // Common practice of voice work delivered unprocessed.
    name: 'Dry voice',
    note: 'No processing. Peaks between −12 and −6 dBFS are the aim; over −3 is refused.',
    limits: { ...noLimits, samplePeakDbfs: between(-12, -3), noiseFloorDbfs: between(null, -60) },
    aimPeakDbfs: { min: -12, max: -6 },
    file: wav24,
    channels: [1],
  },
];

const slug = (name: string) => name.toLowerCase().replace(/[^a-z0-9]+/g, '-');

/** A built-in spec by name; case, spaces and dashes do not matter. */
export const findSpec = (name: string) => builtInSpecs.find((spec) => slug(spec.name) === slug(name.trim()));
