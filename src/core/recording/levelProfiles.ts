import { say } from '../../texts/say';
import { number, object, string } from 'yup';

/**
 * How loud to record; every value is *common practice* (docs/decisions.md). Levels are dBFS, peaks are sample
 * peaks.
 */
export interface LevelProfile {
  name: string;
  /** Where the loudest peaks of a reading belong. */
  peakDbfs: { min: number; max: number };
  /** The room is no louder than this, as RMS. */
  roomDbfs: number;
}

export const levelProfiles = {
  quiet: { name: say`Quiet room`, peakDbfs: { min: -14, max: -9 }, roomDbfs: -60 },
  noisy: { name: say`Noisy room`, peakDbfs: { min: -10, max: -6 }, roomDbfs: -50 },
  headroom: { name: say`Headroom first`, peakDbfs: { min: -18, max: -12 }, roomDbfs: -60 },
} as const satisfies Record<string, LevelProfile>;
/** `spec`: by the delivery specification; `own`: by values of the project's own. */
export type LevelProfileId = keyof typeof levelProfiles | 'spec' | 'own';

/** Which profile a project records by; `own` has values of its own. */
export interface LevelChoice {
  id: LevelProfileId;
  own: LevelProfile;
}

export const defaultLevelChoice: LevelChoice = {
  id: 'spec',
  own: { name: say`Own values`, peakDbfs: { min: -14, max: -6 }, roomDbfs: -60 },
};

const dbfs = (what: string) =>
  number()
    .typeError(say`${what} is a number in dBFS.`)
    .min(-90, say`${what}: nothing under −90 dBFS makes sense.`)
    .max(0, say`${what}: nothing is louder than 0 dBFS.`)
    .required(say`${what} is missing.`);

/** Own values of a profile. */
export const levelProfileSchema = object({
  name: string().required(),
  peakDbfs: object({
    min: dbfs(say`The quietest peak`),
    max: dbfs(say`The loudest peak`).test(
      'order',
      say`The loudest peak is under the quietest. Swap them.`,
      (max, { parent }) => (parent as { min: number }).min < (max ?? 0),
    ),
  }).required(),
  roomDbfs: dbfs(say`The room`),
});

/** `specPeakDbfs` is where the specification wants peaks; one that says nothing means a quiet room. */
export function profileOf(
  { id, own }: LevelChoice,
  specPeakDbfs: LevelProfile['peakDbfs'] | null,
): LevelProfile {
  if (id === 'own') return own;
  if (id !== 'spec') return levelProfiles[id];
  return specPeakDbfs
    ? { name: say`As the spec says`, peakDbfs: specPeakDbfs, roomDbfs: levelProfiles.quiet.roomDbfs }
    : levelProfiles.quiet;
}

/** Quieter peaks than this are too close to the noise floor, whatever the profile. */
export const faintPeakDbfs = -24;
