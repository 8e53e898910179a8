import { array, boolean, lazy, number, object, string, ValidationError, type InferType } from 'yup';
import { ParolaError } from '../base/errors';
import { levelProfileSchema } from '../recording/levelProfiles';
import type { SoundCheck } from '../recording/soundCheck';
import { specSchema } from '../specs/spec';
import type { Step } from '../timeline/history';
import type { ToneChoice } from '../timeline/roomEdits';
import { fadeShapes, type Piece } from '../timeline/pieces';
import { markKinds, type StoredTimeline } from '../timeline/timeline';

/** The JSON of a project file; docs/formats.md describes it. Newer versions are refused, older ones are understood. */
export const manifestName = 'parola.json';
export const manifestVersion = 4;
export const sourceFileName = (id: string) => `sources/${id}.wav`;

const frames = () => number().integer().min(0).required();

const markSchema = object({
  id: string().required(),
  kind: string()
    .oneOf([...markKinds])
    .required(),
  at: frames(),
  length: frames(),
  name: string().defined(),
  line: string().optional(),
});

const whole = () => number().integer();
const fadeSchema = object({
  frames: whole().min(1).required(),
  shape: string()
    .oneOf([...fadeShapes])
    .required(),
});

const edgeFields = {
  joint: object({
    frames: whole().min(0).nullable().defined(),
    shape: string()
      .oneOf([...fadeShapes])
      .required(),
  }).default(undefined),
  fadeIn: fadeSchema.default(undefined),
  fadeOut: fadeSchema.default(undefined),
};

const soundFields = {
  source: string().required(),
  channel: whole().min(0).required(),
  gainDb: number().min(-120).max(60).required(),
};

const silenceSchema = object({
  kind: string().oneOf(['silence']).required(),
  length: whole().min(1).required(),
  struck: boolean().required(),
  meant: boolean().optional(),
  ...edgeFields,
});

const audioSchema = silenceSchema.omit(['meant']).shape({
  kind: string().oneOf(['audio']).required(),
  from: whole().min(0).required(),
  ...soundFields,
});

const toneSchema = audioSchema.shape({
  kind: string().oneOf(['tone']).required(),
  from: whole().required(),
  start: whole().min(0).required(),
  end: whole().min(1).required(),
  seed: whole().required(),
});

const pieceSchema = lazy((piece: { kind?: unknown } | undefined) => {
  if (piece?.kind === 'audio') return audioSchema;
  return piece?.kind === 'tone' ? toneSchema : silenceSchema;
});

const toneChoiceSchema = object({
  source: string().required(),
  channel: whole().min(0).required(),
  start: whole().min(0).required(),
  end: whole().min(1).required(),
  levelDbfs: number().required(),
  origin: string().oneOf(['found', 'check', 'chosen']).required(),
});

const placeSchema = object({
  source: string().required(),
  track: string().required(),
  channel: frames(),
  at: frames(),
  from: frames(),
  length: frames(),
});

const outputSchema = object({
  gainDb: number().min(-120).max(60).required(),
  dcOffsets: array(number().min(-1).max(1).required()).min(1).max(2).required(),
  ceiling: object({
    dbfs: number().min(-60).max(0).required(),
    kind: string().oneOf(['sample', 'true']).required(),
  })
    .nullable()
    .defined(),
});

const partSchema = object({
  id: string().required(),
  name: string().defined(),
  script: array(object({ id: string().required(), text: string().defined() })).required(),
  currentLine: number().integer().min(0).required(),
  caret: frames(),
  historyAt: frames(),
  timeline: object({
    tracks: array(
      object({
        id: string().required(),
        name: string().defined(),
        side: string().oneOf(['left', 'right']).optional(),
        pieces: array(pieceSchema).required(),
      }),
    )
      .min(1)
      .required(),
    marks: array(markSchema).required(),
    places: array(placeSchema).optional(),
    output: outputSchema.optional().default(undefined),
  }).required(),
  history: array(object({ label: string().defined(), difference: object().required() })).required(),
  refused: array(string().required()).optional(),
  tones: lazy((tones: unknown) =>
    object(
      Object.fromEntries(
        Object.keys((tones as object | undefined) ?? {}).map((id) => [id, toneChoiceSchema]),
      ),
    ).default(undefined),
  ),
});

const sourceSchema = object({
  id: string().required(),
  partId: string().defined(),
  trackId: string().defined(),
  trackIds: array(string().required()).optional(),
  take: number().integer().required(),
  name: string().defined(),
  rateHz: number().integer().min(1000).required(),
  channels: number().integer().min(1).max(32).required(),
  frames: frames(),
  handleFrames: frames(),
  startedAt: number().required(),
  overrunFrames: frames(),
  input: string().defined(),
  role: string().oneOf(['take', 'tone', 'check']).optional(),
  levelDbfs: number().optional(),
  note: string().optional(),
  circled: boolean().optional(),
  summary: object({
    peakDbfs: number().nullable().defined(),
    loudnessLufs: number().nullable().defined(),
    clippedSamples: frames(),
  }).optional(),
});

const recordingSchema = object({
  mode: string().oneOf(['continue', 'retake', 'insert', 'patch']).required(),
  runUpSeconds: number().min(0).max(15).required(),
  countIn: string().oneOf(['none', 'beeps', 'sweep']).required(),
  fixedSeconds: number().min(0.1).nullable().defined(),
  keepGoing: boolean().required(),
  patchLength: string().oneOf(['selection', 'reading']).required(),
}).default(undefined);

const levelsSchema = object({
  id: string().oneOf(['quiet', 'noisy', 'headroom', 'spec', 'own']).required(),
  own: levelProfileSchema.required(),
}).default(undefined);

/** A level in a file: JSON has no −∞, so silence is null there. */
const level = () => number().nullable().defined();

const checkSchema = object({
  at: number().required(),
  input: string().defined(),
  toneSource: string().defined(),
  reference: boolean().required(),
  result: object({
    roomDbfs: level(),
    speechDbfs: level(),
    loudnessLufs: level(),
    usualPeakDbfs: level(),
    loudestPeakDbfs: level(),
    clippedSamples: frames(),
    dcOffset: number().required(),
    speechToNoiseDb: level(),
    tone: array(level()).required(),
    hum: object({
      mainsHz: number().required(),
      levelDbfs: number().required(),
      harmonics: array(number().required()).required(),
    })
      .nullable()
      .default(null),
  }).required(),
});

const manifestSchema = object({
  format: string().oneOf(['parola-project']).required(),
  version: number().integer().min(1).required(),
  project: object({
    name: string().required(),
    spec: specSchema.required(),
    rateHz: number().integer().min(8000).max(192_000).required(),
    createdAt: number().required(),
    joinMs: number().min(0).max(1000).required(),
    routes: array(
      object({ track: string().required(), channel: frames(), armed: boolean().required() }),
    ).optional(),
    recording: recordingSchema.optional(),
    levels: levelsSchema.optional(),
  }).required(),
  parts: array(partSchema).required(),
  sources: array(sourceSchema).required(),
  checks: array(checkSchema).optional(),
});

type Loose = InferType<typeof manifestSchema>;
type LoosePart = Loose['parts'][number];

/** A validated manifest. */
export type Manifest = Omit<Loose, 'parts' | 'checks'> & {
  checks?: { at: number; input: string; toneSource: string; reference: boolean; result: SoundCheck }[];
  parts: (Omit<LoosePart, 'timeline' | 'history' | 'tones'> & {
    timeline: StoredTimeline;
    history: Step[];
    tones?: Record<string, ToneChoice>;
  })[];
};

const damaged = (what: string) =>
  new ParolaError(
    'damaged-file',
    `This project file is damaged: ${what}. Nothing was opened; try another copy of it.`,
  );

/**
 * Reads and checks the manifest's text. `renameSource` gives each source its id on this machine. Throws ParolaError `damaged-file`, `not-found` or
 * `unsupported`.
 */
export function parseManifest(text: string, renameSource: (id: string) => string = (id) => id): Manifest {
  let raw: unknown;
  try {
    raw = JSON.parse(text, (key, value) =>
      key === 'source' && typeof value === 'string' ? renameSource(value) : value,
    );
  } catch {
    throw damaged(`its ${manifestName} cannot be read`);
  }
  const version = (raw as { version?: unknown } | null)?.version;
  if (typeof version === 'number' && version > manifestVersion) {
    throw new ParolaError(
      'unsupported',
      'This project file was saved by a newer Parola. Update Parola, then open it again.',
    );
  }
  let manifest: Manifest;
  try {
    manifest = manifestSchema.validateSync(withSpecDefaults(raw), { strict: true }) as unknown as Manifest;
  } catch (error) {
    throw damaged(error instanceof ValidationError ? error.errors[0] : String(error));
  }
  const sources = manifest.sources.map((source) => ({ ...source, id: renameSource(source.id) }));
  const checks = manifest.checks?.map((check) => ({
    ...check,
    toneSource: renameSource(check.toneSource),
    result: withSilence(check.result),
  }));
  checkPieces(manifest, new Map(sources.map((source) => [source.id, source])));
  return { ...manifest, sources, checks };
}

/** Files of earlier versions have specs that lack what came later. What is wrong with a spec is left for the check to find. */
function withSpecDefaults(raw: unknown): unknown {
  const { project } = (raw ?? {}) as { project?: { spec?: unknown } };
  if (typeof project?.spec !== 'object' || project.spec === null) return raw;
  const spec: unknown = specSchema.cast(project.spec, { assert: false });
  return { ...(raw as object), project: { ...project, spec } };
}

/** Levels that are null in the file are −∞. */
function withSilence(result: SoundCheck): SoundCheck {
  const level = (value: number | null) => value ?? -Infinity;
  return {
    ...result,
    roomDbfs: level(result.roomDbfs),
    speechDbfs: level(result.speechDbfs),
    loudnessLufs: level(result.loudnessLufs),
    usualPeakDbfs: level(result.usualPeakDbfs),
    loudestPeakDbfs: level(result.loudestPeakDbfs),
    speechToNoiseDb: level(result.speechToNoiseDb),
    tone: result.tone.map(level),
  };
}

function checkPieces(
  { parts }: Manifest,
  sources: ReadonlyMap<string, { frames: number; channels: number }>,
) {
  const inside = (piece: Piece) => {
    if (piece.kind === 'silence') return true;
    const source = sources.get(piece.source);
    const end = piece.kind === 'tone' ? piece.end : piece.from + piece.length;
    return !!source && piece.channel < source.channels && end <= source.frames;
  };
  for (const part of parts) {
    if (!part.timeline.tracks.every((track) => track.pieces.every(inside))) {
      throw damaged(`part “${part.name}” uses audio that is not in the file`);
    }
    if (part.historyAt > part.history.length)
      throw damaged(`the history of part “${part.name}” is not whole`);
  }
}
