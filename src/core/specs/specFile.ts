import { ValidationError } from 'yup';
import { ParolaError } from '../base/errors';
import { parseForeignJson } from '../base/json';
import { specSchema, type Spec } from './spec';

/** Where the JSON schema of spec files is published, relative to the application. */
export const specSchemaPath = '/spec.schema.json';
const formatVersion = 1;

/** A spec as a JSON file that people and programs can read; docs/formats.md describes it. */
export const specToJson = (spec: Spec): string =>
  `${JSON.stringify({ $schema: specSchemaPath, parolaSpec: formatVersion, ...spec }, null, 2)}\n`;

const refuse = (what: string) => new ParolaError('damaged-file', `This spec file cannot be used: ${what}`);

/** Reads a spec file. Throws ParolaError `damaged-file` with the field and what is wrong with it. */
export function specFromJson(text: string): Spec {
  let parsed: unknown;
  try {
    parsed = parseForeignJson(text);
  } catch {
    throw refuse('it is not JSON. Export it again from Parola, or check its commas and brackets.');
  }
  if (typeof parsed !== 'object' || parsed === null || !('parolaSpec' in parsed))
    throw refuse('it has no field “parolaSpec”, so it is not a spec.');
  if (typeof parsed.parolaSpec !== 'number' || parsed.parolaSpec > formatVersion)
    throw refuse('it was written by a newer version of Parola.');
  try {
    return specSchema.validateSync(parsed, { stripUnknown: true, abortEarly: false });
  } catch (thrown) {
    if (!(thrown instanceof ValidationError))
      throw refuse(
        'one of its fields is of another kind than it should be, such as a list in place of a name.',
      );
    const problems = thrown.inner.length > 0 ? thrown.inner : [thrown];
    throw refuse(problems.map(({ path, message }) => (path ? `${path}: ${message}` : message)).join(' '));
  }
}
