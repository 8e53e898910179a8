import { say } from '../../texts/say';
import { array, number, object, string } from 'yup';
import { ParolaError, toParolaError } from '../base/errors';
import { parseForeignJson } from '../base/json';
import { limits } from '../formats/manifestLimits';
import { parseManifest, type Manifest, type ReadManifest } from '../formats/projectManifest';
import { audioPath, filmPath } from './copyFolder';
import type { CopiedFile, CopiedFiles } from './sums';

/** Which state of a project it is, and what stood in its folder then. */
export interface CopyTold {
  /** Counted up by one with each state that is written. */
  sequence: number;
  /** Milliseconds since 1970. */
  savedAt: number;
  files: CopiedFiles;
}

/** A state as it is written: the manifest of a project file, and what is told of the copy. */
export function copyStateText(manifest: Manifest, { sequence, savedAt, files }: CopyTold): string {
  const listed = [...files].map(([path, { bytes, sha256 }]) => ({ path, bytes, sha256 }));
  return JSON.stringify({ ...manifest, copy: { sequence, savedAt, files: listed } });
}

const longestPath = 1000;
const toldSchema = object({
  copy: object({
    sequence: number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required(),
    savedAt: number().min(0).max(limits.time).required(),
    files: array(
      object({
        path: string().min(1).max(longestPath).required(),
        bytes: number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required(),
        sha256: string()
          .matches(/^[0-9a-f]{64}$/)
          .required(),
      }),
    )
      .max(2 * limits.sources)
      .required(),
  }).required(),
});

export interface CopyState extends CopyTold, ReadManifest {
  name: string;
}

/**
 * Reads a state. Throws ParolaError `damaged-file` where it is not a whole one, `unsupported` where a newer
 * Parola has written it.
 */
export function readCopyState(text: string, renameSource?: (id: string) => string): CopyState {
  const read = parseManifest(text, renameSource);
  let told;
  try {
    const raw = parseForeignJson(text, () => undefined);
    told = toldSchema.cast(toldSchema.validateSync(raw, { strict: true }), { stripUnknown: true });
  } catch {
    throw new ParolaError(
      'damaged-file',
      say`This is not a state of a project that was copied into a folder.`,
    );
  }
  const { sequence, savedAt, files } = told.copy;
  return {
    ...read,
    name: read.manifest.project.name,
    sequence,
    savedAt,
    files: new Map(files.map(({ path, bytes, sha256 }): [string, CopiedFile] => [path, { bytes, sha256 }])),
  };
}

/** What of a state is not in its folder: paths of files that are missing, or have another size. */
export function missingOf(
  state: Pick<CopyState, 'files' | 'manifest'>,
  listing: ReadonlyMap<string, number>,
) {
  const wanted = state.manifest.sources.flatMap(({ id, film }) =>
    film && state.files.has(filmPath(id)) ? [audioPath(id), filmPath(id)] : [audioPath(id)],
  );
  return wanted.filter((path) => {
    const told = state.files.get(path);
    const bytes = listing.get(path);
    return bytes === undefined || (told !== undefined && bytes !== told.bytes);
  });
}

export interface ChosenState {
  text: string;
  state: CopyState;
  /** What is not whole in the folder. */
  missing: string[];
  /** Later states that cannot be used, and why. */
  refused: string[];
}

/**
 * The state a project is opened from: the latest of which everything is there; where there is none, the
 * latest of those that lack least. Throws what the latest one threw where none can be read.
 */
export function chooseState(texts: readonly string[], listing: ReadonlyMap<string, number>): ChosenState {
  const refused: string[] = [];
  let failure: ParolaError | null = null;
  const states = texts.flatMap((text) => {
    try {
      const state = readCopyState(text);
      return [{ text, state, missing: missingOf(state, listing) }];
    } catch (error) {
      failure ??= toParolaError(error);
      // A newer Parola has been at work: what an older one has left there is not what was kept last.
      if (toParolaError(error).code === 'unsupported') throw error;
      refused.push(say`One of the states in this folder is damaged; the others were used.`);
      return [];
    }
  });
  states.sort((a, b) => a.missing.length - b.missing.length || b.state.sequence - a.state.sequence);
  const [best] = states;
  if (!best)
    throw failure ?? new ParolaError('damaged-file', say`There is no state of a project in this folder.`);
  return { ...best, refused: [...new Set(refused)] };
}
