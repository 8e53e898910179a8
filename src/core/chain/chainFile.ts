import { say } from '../../texts/say';
import {
  array,
  boolean,
  lazy,
  mixed,
  number,
  object,
  string,
  type AnySchema,
  type ValidationError,
} from 'yup';
import { readOwnFile } from '../base/ownFile';
import { bandShapes } from '../dsp/cookbook';
import { mostBands, mostSteps, type Chain, type ChainStep, type StepKind } from './chain';
import { roomPlaces } from './roomProfile';
import { bandSettings, choices, highestHarmonic, settings, type Setting } from './settings';
import { stepNames } from './stepText';

/** A chain with what it is for, as it is kept by name. */
export interface SavedChain extends Chain {
  readonly note: string;
}

/** Where the JSON schema of chain files is published, relative to the application. */
export const chainSchemaPath = '/chain.schema.json';
export const chainFormatVersion = 1;

const numberOf = ({ from, to, unit }: Setting) =>
  number()
    .strict()
    .required()
    .typeError(say`\${path} is a number.`)
    .min(from, say`\${path} is at least ${from} ${unit}.`)
    .max(to, say`\${path} is at most ${to} ${unit}.`);

const bandSchema = object({
  shape: string()
    .oneOf([...bandShapes])
    .required(),
  hertz: numberOf(bandSettings.hertz),
  gainDb: numberOf(bandSettings.gainDb),
  q: numberOf(bandSettings.q),
});

const levelSchema = number().strict().required().min(-200).max(60);

const profileSchema = object({
  stepHz: number().strict().required().min(5).max(400),
  levels: array(levelSchema).required().length(roomPlaces.length),
})
  .nullable()
  .default(null);

/** What of a step is neither a number with limits nor one of a few. */
export const otherFields: Readonly<Record<StepKind, Readonly<Record<string, AnySchema>>>> = {
  rumble: {},
  hum: {
    harmonics: array(number().strict().required().integer().min(1).max(highestHarmonic))
      .required()
      .max(highestHarmonic),
  },
  plosives: {},
  room: { profile: profileSchema },
  pauses: { roomDb: array(levelSchema).length(3).nullable().default(null) },
  equaliser: {
    bands: array(bandSchema)
      .required()
      .max(mostBands, say`An equaliser has at most ${mostBands} bands.`),
  },
  sibilance: {},
  phrases: {},
  even: {},
  ceiling: {},
};

const kinds = Object.keys(settings) as StepKind[];

const schemaOfKind = (kind: StepKind) =>
  object({
    kind: string().required(),
    id: string().max(200).default(''),
    on: boolean().strict().required(),
    ...Object.fromEntries(
      Object.entries<Setting>(settings[kind]).map(([name, setting]) => [name, numberOf(setting)]),
    ),
    ...Object.fromEntries(
      Object.entries<readonly (string | number)[]>(choices[kind]).map(([name, values]) => [
        name,
        mixed()
          .required()
          .oneOf([...values], say`\${path} is one of: ${values.join(', ')}.`),
      ]),
    ),
    ...otherFields[kind],
  });

const schemas: Readonly<Record<string, AnySchema>> = Object.fromEntries(
  kinds.map((kind) => [kind, schemaOfKind(kind)]),
);

const unknownKind = object({
  kind: string()
    .required()
    .oneOf(kinds, say`\${path} is one of: ${kinds.join(', ')}.`),
});

const stepSchema = lazy((value: unknown) => {
  const kind = (value as { kind?: unknown } | null)?.kind;
  return typeof kind === 'string' && Object.hasOwn(schemas, kind) ? schemas[kind] : unknownKind;
});

const chainSchema = object({
  name: string()
    .default('')
    .max(60, say`A name of a chain has at most 60 letters.`),
  note: string()
    .default('')
    .max(300, say`What a chain is for takes at most 300 letters.`),
  steps: array(stepSchema)
    .required()
    .max(mostSteps, say`A chain has at most ${mostSteps} steps.`),
});

/** Steps whose ids are none or the same get others: they tell steps of a chain apart. */
function withIds(steps: readonly ChainStep[]): ChainStep[] {
  const used = new Set<string>();
  return steps.map((step, index) => {
    let { id } = step;
    for (let n = index + 1; id === '' || used.has(id); n++) id = `step-${n}`;
    used.add(id);
    return { ...step, id };
  });
}

/** A chain of plain data; what is not known of it is left out. Throws yup's ValidationError. */
export function readChain(value: unknown): SavedChain {
  const { name, note, steps } = chainSchema.validateSync(value, {
    stripUnknown: true,
    abortEarly: false,
  }) as SavedChain;
  return { name, note, steps: withIds(steps) };
}

/** A chain as a JSON file that people and programs can read; docs/formats.md describes it. */
export function chainToJson({ name, note, steps }: SavedChain): string {
  const plain = steps.map(({ id: _, ...step }) => step);
  const file = { $schema: chainSchemaPath, parolaChain: chainFormatVersion, name, note, steps: plain };
  return `${JSON.stringify(file, null, 2)}\n`;
}

/** Reads a chain file. Throws ParolaError `damaged-file` with the step and what is wrong with it. */
export const chainFromJson = (text: string): SavedChain =>
  readOwnFile(text, {
    what: say`chain file`,
    kind: say`a chain`,
    field: 'parolaChain',
    version: chainFormatVersion,
    read: readChain,
    tell: told,
  });

/** A problem with the step it is in, by its name. */
function told({ path = '', message }: ValidationError, file: object): string {
  const at = /^steps\[(\d+)\]/.exec(path);
  const { steps } = file as { steps?: unknown };
  const step = at && Array.isArray(steps) ? (steps[Number(at[1])] as { kind?: unknown } | null) : null;
  const name = stepNames[step?.kind as StepKind] as string | undefined;
  return at ? say`step ${Number(at[1]) + 1}${name ? ` (${name})` : ''}: ${message}` : message;
}
