import { say } from '../../texts/say';
import { array, number, object, string, ValidationError } from 'yup';
import { ParolaError } from '../base/errors';
import { parseForeignJson } from '../base/json';
import { farRecordingSchema, type FarRecording } from './messages';

/**
 * What stands in a file that a talent saves where nothing can be sent any more: an archive with this list,
 * and each recording as a 32-bit float WAV (docs/formats.md).
 */
export interface RecordingsFile {
  /** Key and name of who made them. */
  readonly person: string;
  readonly name: string;
  readonly recordings: readonly FarRecording[];
}

export const recordingsListName = 'recordings.json';
export const recordingFileName = (id: string) => `audio/${id}.wav`;
export const recordingsEnding = '.parola-takes';
const format = 'parola-recordings';
const version = 1;

const schema = object({
  format: string().required().oneOf([format]),
  version: number().strict().required().integer(),
  person: string().strict().required().max(64),
  name: string().strict().required().max(60),
  recordings: array(farRecordingSchema).strict().required().max(10_000),
});

export const writeRecordingsList = (file: RecordingsFile): string =>
  JSON.stringify({ format, version, ...file }, null, 1);

/** Throws ParolaError `damaged-file`, or `unsupported` for one of a later version. */
export function readRecordingsList(text: string): RecordingsFile {
  let value: unknown;
  try {
    value = parseForeignJson(text);
  } catch {
    throw notOne();
  }
  try {
    const { version: found, person, name, recordings } = schema.validateSync(value, { stripUnknown: true });
    if (found > version)
      throw new ParolaError(
        'unsupported',
        say`This file of takes was saved by a later version of Parola. Reload the page here, so that both have the newest.`,
      );
    return { person, name, recordings };
  } catch (thrown) {
    if (thrown instanceof ValidationError) throw notOne();
    throw thrown;
  }
}

export const notOne = () =>
  new ParolaError(
    'damaged-file',
    say`This is not a whole file of takes from a talent: one ends with “${recordingsEnding}”. Ask for it once more.`,
  );
