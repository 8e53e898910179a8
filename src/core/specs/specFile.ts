import { say } from '../../texts/say';
import { readOwnFile } from '../base/ownFile';
import { specSchema, type Spec } from './spec';

/** Where the JSON schema of spec files is published, relative to the application. */
export const specSchemaPath = '/spec.schema.json';
const formatVersion = 1;

/** A spec as a JSON file that people and programs can read; docs/formats.md describes it. */
export const specToJson = (spec: Spec): string =>
  `${JSON.stringify({ $schema: specSchemaPath, parolaSpec: formatVersion, ...spec }, null, 2)}\n`;

/** Reads a spec file. Throws ParolaError `damaged-file` with the field and what is wrong with it. */
export const specFromJson = (text: string): Spec =>
  readOwnFile(text, {
    what: say`spec file`,
    kind: say`a spec`,
    field: 'parolaSpec',
    version: formatVersion,
    read: (parsed) => specSchema.validateSync(parsed, { stripUnknown: true, abortEarly: false }),
  });
