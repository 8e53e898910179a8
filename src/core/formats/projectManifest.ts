import { say } from '../../texts/say';
import { array, boolean, number, object, string, ValidationError, type InferType } from 'yup';
import { splitRules } from '../base/text';
import { longestName, mostNames } from '../script/names';
import { ParolaError } from '../base/errors';
import { parseForeignJson } from '../base/json';
import type { SoundCheck } from '../recording/soundCheck';
import { specSchema } from '../specs/spec';
import type { Step } from '../timeline/history';
import type { ToneChoice } from '../timeline/roomEdits';
import { plainTimeline, type PlainTimeline } from '../timeline/stored';
import { sheetFramesOf } from '../timeline/timeline';
import { limits, mostFrames } from './manifestLimits';
import { readToneRegion } from './manifestLists';
import { levelsSchema, recordingSchema } from './manifestSettings';
import { readTimeline } from './manifestTimeline';
import { damaged, type ReadingContext } from './manifestValues';

/**
 * The JSON of a project file; docs/formats.md describes it. Newer versions are refused, older ones are
 * understood.
 */
export const manifestName = 'parola.json';
export const manifestVersion = 11;
/** Up to this one, pieces were struck one by one. */
const lastStruckPieces = 4;
export const sourceFileName = (id: string) => `sources/${id}.wav`;
/** The moving picture of a recording that has one, as the file it was; missing where it was left out. */
export const filmFileName = (id: string) => `films/${id}`;

const count = (most: number) => number().integer().min(0).max(most).required();
const id = () => string().min(1).max(limits.idLetters).required();
const idOrNone = () => string().max(limits.idLetters).defined();
const name = () => string().max(limits.nameLetters).defined();
const time = () => number().min(0).max(limits.time).required();
const rate = () => number().integer().min(limits.leastRateHz).max(limits.mostRateHz).required();
const longest = mostFrames(limits.mostRateHz);
/** A level in dB; JSON has no −∞, so silence is null. */
const level = () => number().min(-400).max(400).nullable().defined();

/** What a part has beside its sheet and its history, which `readTimeline` reads. */
const partSchema = object({
  id: id(),
  name: name(),
  script: array(
    object({
      id: id(),
      text: string().max(limits.textLetters).defined(),
      was: string().max(limits.textLetters).optional(),
    }),
  )
    .max(limits.lines)
    .required(),
  currentLine: count(limits.lines),
  caret: count(longest),
  refused: array(string().max(limits.nameLetters).required()).max(limits.refused).optional(),
});

const mostPixels = 65_536;
const mostPerSecond = 1e9;
const filmSchema = object({
  fileName: name(),
  bytes: count(Number.MAX_SAFE_INTEGER),
  width: number().integer().min(1).max(mostPixels).required(),
  height: number().integer().min(1).max(mostPixels).required(),
  frames: count(longest),
  seconds: number()
    .min(0)
    .max(limits.hours * 3600)
    .required(),
  rate: object({
    num: number().integer().min(1).max(mostPerSecond).required(),
    den: number().integer().min(1).max(mostPerSecond).required(),
  })
    .nullable()
    .default(null),
}).default(undefined);

const sourceSchema = object({
  id: id(),
  partId: idOrNone(),
  trackId: idOrNone(),
  trackIds: array(id()).max(limits.channels).optional(),
  take: number().integer().min(-1e9).max(1e9).required(),
  name: name(),
  rateHz: rate(),
  channels: number().integer().min(1).max(limits.channels).required(),
  frames: count(longest),
  handleFrames: count(longest),
  startedAt: time(),
  overrunFrames: count(longest),
  input: name(),
  role: string().oneOf(['take', 'tone', 'check', 'bed', 'guide']).optional(),
  levelDbfs: number().min(-400).max(400).optional(),
  note: string().max(limits.textLetters).optional(),
  circled: boolean().optional(),
  deleted: boolean().optional(),
  cue: id().optional(),
  film: filmSchema.optional(),
  summary: object({ peakDbfs: level(), loudnessLufs: level(), clippedSamples: count(longest) })
    .optional()
    .default(undefined),
});

const checkSchema = object({
  at: time(),
  input: name(),
  toneSource: idOrNone(),
  reference: boolean().required(),
  result: object({
    roomDbfs: level(),
    speechDbfs: level(),
    loudnessLufs: level(),
    usualPeakDbfs: level(),
    loudestPeakDbfs: level(),
    clippedSamples: count(longest),
    dcOffset: number().min(-1).max(1).required(),
    speechToNoiseDb: level(),
    tone: array(level()).max(1000).required(),
    hum: object({
      mainsHz: number().min(1).max(1000).required(),
      levelDbfs: number().min(-400).max(400).required(),
      harmonics: array(number().min(-400).max(100_000).required()).max(1000).required(),
    })
      .nullable()
      .default(null),
  }).required(),
});

const projectSchema = object({
  name: string().min(1).max(limits.nameLetters).required(),
  spec: specSchema.required(),
  rateHz: rate(),
  createdAt: time(),
  joinMs: number().min(0).max(1000).required(),
  routes: array(
    object({
      track: id(),
      input: id().optional(),
      channel: count(limits.channels - 1),
      armed: boolean().required(),
    }),
  )
    .max(limits.routes)
    .optional(),
  recording: recordingSchema.optional(),
  levels: levelsSchema.optional(),
  further: string().max(limits.nameLetters).optional(),
  split: string()
    .oneOf([...splitRules])
    .optional(),
  names: array(
    object({
      name: string().min(1).max(longestName).required(),
      say: string().min(1).max(longestName).required(),
    }),
  )
    .max(mostNames)
    .optional(),
});

const manifestSchema = object({
  format: string().oneOf(['parola-project']).required(),
  version: number().integer().min(1).required(),
  project: projectSchema.required(),
  parts: array(partSchema).max(limits.parts).required(),
  sources: array(sourceSchema).max(limits.sources).required(),
  checks: array(checkSchema).max(limits.checks).optional(),
  savedAt: time().optional(),
  elsewhere: array(object({ file: name(), sources: array(id()).max(limits.sources).required() }))
    .max(limits.files)
    .optional(),
});

type Loose = InferType<typeof manifestSchema>;

export interface ManifestPart extends InferType<typeof partSchema> {
  timeline: PlainTimeline;
  history: readonly Step[];
  historyAt: number;
  tones?: Record<string, ToneChoice>;
}

/** A validated manifest. */
export interface Manifest extends Omit<Loose, 'parts' | 'checks'> {
  parts: ManifestPart[];
  checks?: { at: number; input: string; toneSource: string; reference: boolean; result: SoundCheck }[];
}

/** What was read, with what had to be left out, in sentences for the user. */
export interface ReadManifest {
  manifest: Manifest;
  left: string[];
}

/** Infinity, and numbers too large for any field, are told here: a schema takes some of them for numbers. */
const largestNumber = Number.MAX_SAFE_INTEGER;

function parseJson(text: string): unknown {
  try {
    return parseForeignJson(text, (value) => {
      if (typeof value === 'number' && !(Math.abs(value) <= largestNumber)) throw new RangeError();
    });
  } catch (error) {
    throw damaged(
      error instanceof RangeError
        ? say`it holds a number that is none`
        : say`its ${manifestName} cannot be read`,
    );
  }
}

/** The field a schema has stopped at, in our words. */
function asDamage(error: unknown): ParolaError {
  if (error instanceof ParolaError) return error;
  const path = error instanceof ValidationError ? error.path : '';
  return damaged(path ? say`its field “${path}” is missing or not valid` : say`it is not built like one`);
}

/**
 * Reads and checks the manifest's text; only known fields are taken over. `renameSource` gives each source
 * its id on this machine. Throws ParolaError `damaged-file` or `unsupported`.
 */
export function parseManifest(text: string, renameSource: (id: string) => string = (id) => id): ReadManifest {
  const raw = parseJson(text);
  const { version } = (raw ?? {}) as { version?: unknown };
  if (typeof version === 'number' && version > manifestVersion) {
    throw new ParolaError(
      'unsupported',
      say`This project file was saved by a newer Parola. Update Parola, then open it again.`,
    );
  }
  try {
    const checked = manifestSchema.validateSync(withSpecDefaults(raw), { strict: true });
    const known = manifestSchema.cast(checked, { stripUnknown: true, assert: false }) as Loose;
    return readParts(known, raw as RawManifest, renameSource);
  } catch (error) {
    throw asDamage(error);
  }
}

interface RawManifest {
  parts: { timeline: unknown; history: unknown; historyAt: unknown; tones?: unknown }[];
}

function readParts(known: Loose, raw: RawManifest, renameSource: (id: string) => string): ReadManifest {
  const { project, version, checks, ...rest } = known;
  const sources = new Map(known.sources.map((source) => [source.id, source]));
  const left: string[] = [];
  if (
    sources.size < known.sources.length ||
    new Set(known.parts.map((part) => part.id)).size < known.parts.length
  )
    throw damaged(say`two of its parts or recordings have the same id`);
  for (const source of known.sources)
    if (source.handleFrames > source.frames || source.rateHz !== project.rateHz)
      throw damaged(say`the recording “${source.name}” is not valid`);
  const parts = known.parts.map((part, index): ManifestPart => {
    const context: ReadingContext = {
      part: part.name,
      mostFrames: mostFrames(project.rateHz),
      rateHz: project.rateHz,
      sources,
      renameSource,
      struckPieces: version <= lastStruckPieces,
    };
    const { timeline, history, historyAt, dropped } = readTimeline(raw.parts[index], context);
    if (dropped > 0)
      left.push(
        say`${dropped === 1 ? say`One step` : say`${dropped} steps`} of the history of “${part.name}” did not fit and cannot be undone any more; its sheet is whole.`,
      );
    const tracks = new Set(timeline.tracks.map((track) => track.id));
    const tones = readTones(raw.parts[index].tones, tracks, context);
    if (tones === null) left.push(say`The room tone of “${part.name}” was not valid; it is found anew.`);
    return {
      ...part,
      currentLine: Math.min(part.currentLine, Math.max(0, part.script.length - 1)),
      caret: Math.min(part.caret, sheetFramesOf(timeline)),
      timeline: plainTimeline(timeline),
      history,
      historyAt,
      ...(tones && { tones }),
    };
  });
  return {
    manifest: {
      ...rest,
      ...(rest.elsewhere && {
        elsewhere: rest.elsewhere.map(({ file, sources: ids }) => ({ file, sources: ids.map(renameSource) })),
      }),
      project,
      version,
      parts,
      sources: known.sources.map((source) => ({ ...source, id: renameSource(source.id) })),
      ...(checks && {
        checks: checks.map((check) => ({
          ...check,
          toneSource: renameSource(check.toneSource),
          result: withSilence(check.result as SoundCheck),
        })),
      }),
    },
    left,
  };
}

/** Room tone by track; null where something is wrong with it, since it can always be found again. */
function readTones(
  value: unknown,
  tracks: ReadonlySet<string>,
  context: ReadingContext,
): Record<string, ToneChoice> | undefined | null {
  if (value === undefined || value === null) return undefined;
  if (typeof value !== 'object' || Array.isArray(value)) return null;
  try {
    return Object.fromEntries(
      Object.entries(value as Record<string, unknown>)
        .filter(([track]) => tracks.has(track))
        .map(([track, tone]) => [track, readTone(tone, context)]),
    );
  } catch {
    return null;
  }
}

function readTone(value: unknown, context: ReadingContext): ToneChoice {
  const raw = (value ?? {}) as Record<string, unknown>;
  const { levelDbfs, origin } = raw;
  if (typeof levelDbfs !== 'number' || (origin !== 'found' && origin !== 'check' && origin !== 'chosen'))
    throw damaged(say`a room tone is not valid`);
  return { ...readToneRegion(raw, context), levelDbfs, origin };
}

/**
 * Files of earlier versions have specs that lack what came later. What is wrong with a spec is left for the
 * check to find.
 */
function withSpecDefaults(raw: unknown): unknown {
  const { project } = (raw ?? {}) as { project?: { spec?: unknown } };
  if (typeof project?.spec !== 'object' || project.spec === null) return raw;
  const spec: unknown = specSchema.cast(project.spec, { assert: false });
  return { ...(raw as object), project: { ...project, spec } };
}

/** Levels that are null in the file are −∞. */
function withSilence(result: SoundCheck): SoundCheck {
  const known = (value: number | null) => value ?? -Infinity;
  return {
    ...result,
    roomDbfs: known(result.roomDbfs),
    speechDbfs: known(result.speechDbfs),
    loudnessLufs: known(result.loudnessLufs),
    usualPeakDbfs: known(result.usualPeakDbfs),
    loudestPeakDbfs: known(result.loudestPeakDbfs),
    speechToNoiseDb: known(result.speechToNoiseDb),
    tone: result.tone.map(known),
  };
}
