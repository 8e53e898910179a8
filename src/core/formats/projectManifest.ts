import { array, boolean, number, object, string, ValidationError, type InferType } from 'yup';
import { ParolaError } from '../base/errors';
import { specSchema } from '../specs/spec';
import type { Step } from '../timeline/history';
import type { Piece } from '../timeline/pieces';
import { markKinds, type StoredTimeline } from '../timeline/timeline';

/** The JSON of a project file; docs/formats.md describes it. Newer versions are refused, older ones are understood. */
export const manifestName = 'parola.json';
export const manifestVersion = 1;
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
});

const pieceSchema = object({
  kind: string().oneOf(['audio', 'silence']).required(),
  length: number().integer().min(1).required(),
  struck: boolean().required(),
  source: string().when('kind', { is: 'audio', then: (schema) => schema.required() }),
  channel: number()
    .integer()
    .min(0)
    .when('kind', { is: 'audio', then: (schema) => schema.required() }),
  from: number()
    .integer()
    .min(0)
    .when('kind', { is: 'audio', then: (schema) => schema.required() }),
  gainDb: number()
    .min(-120)
    .max(60)
    .when('kind', { is: 'audio', then: (schema) => schema.required() }),
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
      object({ id: string().required(), name: string().defined(), pieces: array(pieceSchema).required() }),
    )
      .min(1)
      .required(),
    marks: array(markSchema).required(),
  }).required(),
  history: array(object({ label: string().defined(), difference: object().required() })).required(),
});

const sourceSchema = object({
  id: string().required(),
  partId: string().required(),
  trackId: string().required(),
  take: number().integer().required(),
  name: string().defined(),
  rateHz: number().integer().min(1000).required(),
  channels: number().integer().min(1).max(32).required(),
  frames: frames(),
  handleFrames: frames(),
  startedAt: number().required(),
  overrunFrames: frames(),
  input: string().defined(),
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
  }).required(),
  parts: array(partSchema).required(),
  sources: array(sourceSchema).required(),
});

type Loose = InferType<typeof manifestSchema>;
type LoosePart = Loose['parts'][number];

/** A validated manifest. */
export type Manifest = Omit<Loose, 'parts'> & {
  parts: (Omit<LoosePart, 'timeline' | 'history'> & { timeline: StoredTimeline; history: Step[] })[];
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
    manifest = manifestSchema.validateSync(raw, { strict: true }) as unknown as Manifest;
  } catch (error) {
    throw damaged(error instanceof ValidationError ? error.errors[0] : String(error));
  }
  const sources = manifest.sources.map((source) => ({ ...source, id: renameSource(source.id) }));
  checkPieces(manifest, new Map(sources.map((source) => [source.id, source])));
  return { ...manifest, sources };
}

function checkPieces(
  { parts }: Manifest,
  sources: ReadonlyMap<string, { frames: number; channels: number }>,
) {
  const inside = (piece: Piece) => {
    if (piece.kind === 'silence') return true;
    const source = sources.get(piece.source);
    return !!source && piece.channel < source.channels && piece.from + piece.length <= source.frames;
  };
  for (const part of parts) {
    if (!part.timeline.tracks.every((track) => track.pieces.every(inside))) {
      throw damaged(`part “${part.name}” uses audio that is not in the file`);
    }
    if (part.historyAt > part.history.length)
      throw damaged(`the history of part “${part.name}” is not whole`);
  }
}
