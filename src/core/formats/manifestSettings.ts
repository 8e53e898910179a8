import { boolean, number, object, string } from 'yup';
import { cueSettingLimits } from '../recording/cueSettings';
import { levelProfileSchema } from '../recording/levelProfiles';

const { runUpSeconds, runOutSeconds, stretch } = cueSettingLimits;
const cueSettingsSchema = object({
  runUpSeconds: number().min(runUpSeconds.least).max(runUpSeconds.most).required(),
  beeps: boolean().required(),
  sweep: boolean().required(),
  runOutSeconds: number().min(runOutSeconds.least).max(runOutSeconds.most).required(),
  end: string().oneOf(['out', 'on']).required(),
  then: string().oneOf(['stay', 'next', 'play']).required(),
  guide: string().oneOf(['heard', 'off']).required(),
  stretch: number().min(stretch.least).max(stretch.most).required(),
  voices: string().oneOf(['own', 'armed']).required(),
}).default(undefined);

/** How Record works, as it was set last. */
export const recordingSchema = object({
  mode: string().oneOf(['continue', 'retake', 'insert', 'patch', 'cue']).required(),
  runUpSeconds: number().min(0).max(15).required(),
  countIn: string().oneOf(['none', 'beeps', 'sweep']).required(),
  fixedSeconds: number().min(0.1).max(86_400).nullable().defined(),
  keepGoing: boolean().required(),
  hearOthers: boolean().optional(),
  patchLength: string().oneOf(['selection', 'reading']).required(),
  cue: cueSettingsSchema.optional(),
}).default(undefined);

/** How loud to record. */
export const levelsSchema = object({
  id: string().oneOf(['quiet', 'noisy', 'headroom', 'spec', 'own']).required(),
  own: levelProfileSchema.required(),
}).default(undefined);
