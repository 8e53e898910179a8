import { say } from '../../texts/say';
import { plainFormat, type FileFormat } from './fileFormat';
import { defaultNaming, noLimits, type Limit, type Spec } from './spec';

const mp3: FileFormat = { ...plainFormat, container: 'mp3', encoding: 'pcm16', rateHz: 44_100 };
const between = (min: number | null, max: number | null): Limit => ({ min, max });
const quietRoomAim = { min: -18, max: -6 };

const spec = (
  name: string,
  note: string,
  limits: Partial<Spec['limits']>,
  file: FileFormat,
  rest: Partial<Spec> = {},
): Spec => ({
  name,
  note,
  limits: { ...noLimits, ...limits },
  rmsConvention: 'full-scale',
  aimPeakDbfs: quietRoomAim,
  file,
  more: [],
  channels: [1],
  naming: defaultNaming,
  unprocessed: false,
  ...rest,
});

/** The specifications a project can start from; sources beside each. Values from memory. */
export const builtInSpecs: readonly Spec[] = [
  // Common practice of audiobook retail.
  spec(
    'Audiobook retail',
    say`One part a file, at most 120 minutes, mono or stereo the same throughout.`,
    {
      rmsDbfs: between(-23, -18),
      samplePeakDbfs: between(null, -3),
      noiseFloorDbfs: between(null, -60),
      headSeconds: between(0.5, 1),
      tailSeconds: between(1, 5),
      durationSeconds: between(null, 7200),
    },
    mp3,
    { channels: [1, 2] },
  ),
  // Common practice: 3 LU below the −16 LUFS usual for stereo: the same loudness from two speakers.
  spec(
    'Podcast mono',
    say`A mono file at −19 LUFS sounds as loud from two speakers as stereo at −16.`,
    { integratedLufs: between(-20, -18), truePeakDbtp: between(null, -1) },
    mp3,
  ),
  // Common practice; AES TD1004 gives −16 to −20 LUFS and at most −1 dBTP.
  spec(
    'Podcast stereo',
    say`A voice in the middle is written into both sides, which measures 3 LU more than in mono.`,
    { integratedLufs: between(-17, -15), truePeakDbtp: between(null, -1) },
    { ...mp3, bitRateKbps: 128, channels: 2 },
    { channels: [2] },
  ),
  // EBU R 128.
  spec(
    'Broadcast EU',
    say`EBU R 128: −23.0 ± 0.5 LUFS, at most −1 dBTP. A live programme may be off by 1 LU: widen the limit then.`,
    { integratedLufs: between(-23.5, -22.5), truePeakDbtp: between(null, -1) },
    { ...plainFormat, broadcast: true },
    { channels: [1, 2, 5, 6] },
  ),
  // ATSC A/85.
  spec(
    'Broadcast US',
    say`ATSC A/85: −24 ± 2 LKFS, at most −2 dBTP.`,
    { integratedLufs: between(-26, -22), truePeakDbtp: between(null, -2) },
    { ...plainFormat, broadcast: true },
    { channels: [1, 2, 5, 6] },
  ),
  // Common practice of voice work delivered unprocessed.
  spec(
    'Dry voice',
    say`No processing. Peaks between −12 and −6 dBFS are the aim; over −3 is refused.`,
    { samplePeakDbfs: between(-12, -3), noiseFloorDbfs: between(null, -60) },
    plainFormat,
    { aimPeakDbfs: { min: -12, max: -6 }, unprocessed: true },
  ),
  // Common practice: a sample goes by mail, and 25 MB is a usual mail limit.
  spec(
    'Casting sample',
    say`Joint stereo from a mono voice, small enough for a mail: under 25 MB.`,
    { samplePeakDbfs: between(null, -3), fileMegabytes: between(null, 25) },
    { ...mp3, bitRateKbps: 224, channels: 2 },
    { channels: [1, 2], naming: '{voice}_{part}' },
  ),
];

const slug = (name: string) => name.toLowerCase().replace(/[^a-z0-9]+/g, '-');

/** A spec by name, of the built-in ones unless others are given; case, spaces and dashes do not matter. */
export const findSpec = (name: string, specs: readonly Spec[] = builtInSpecs) =>
  specs.find((candidate) => slug(candidate.name) === slug(name.trim()));
