import { say } from '../../texts/say';
import { array, boolean, number, object, string, type InferType } from 'yup';
import { nameFields, unknownFields } from '../formats/fileNames';
import { fileSchema } from './fileFormat';
import { measureLabels, measures, rmsConventions, type Measure } from './measures';

const limitSchema = (measure: Measure) => {
  const { name, unit, low, high } = measureLabels[measure];
  const edge = (which: string) =>
    number()
      .typeError(say`${name}: the ${which} is a number in ${unit}, or empty for none.`)
      .min(low, say`${name}: nothing under ${low} ${unit} makes sense as a limit.`)
      .max(high, say`${name}: nothing over ${high} ${unit} makes sense as a limit.`)
      .nullable()
      .default(null);
  return (
    object({
      min: edge('lowest'),
      max: edge('highest').test({
        name: 'order',
        message: say`${name}: the lowest allowed is above the highest. Swap them or clear one.`,
        test: (max, { parent }) =>
          max === null ||
          max === undefined ||
          parent.min === null ||
          parent.min === undefined ||
          parent.min <= max,
      }),
    })
      .nullable()
      .default(null)
      // A form has both edges of every measure: without either there is no limit.
      .transform((limit: Limit | null) => (limit && limit.min === null && limit.max === null ? null : limit))
  );
};

const limitFields = Object.fromEntries(measures.map((measure) => [measure, limitSchema(measure)])) as Record<
  Measure,
  ReturnType<typeof limitSchema>
>;

export const defaultNaming = '{project}_{nn}_{part}';

/**
 * A delivery specification. Also the schema of specs in stored projects, project files and spec files; what
 * older ones lack has a default.
 */
export const specSchema = object({
  name: string()
    .trim()
    .required(say`Give the spec a name.`)
    .max(60, say`A spec name has at most 60 letters.`),
  note: string().default(''),
  limits: object(limitFields).required(),
  /** What RMS figures and their limits are against. */
  rmsConvention: string()
    .oneOf([...rmsConventions])
    .default('full-scale'),
  /** Where loud speech should peak while recording, dBFS. */
  aimPeakDbfs: object({
    min: number().min(-60).max(0).required(),
    max: number()
      .min(-60)
      .max(0)
      .required()
      .test({
        name: 'order',
        message: say`Aim: the lower edge is above the upper edge. Swap them.`,
        test: (max, { parent }) => parent.min < max,
      }),
  }).required(),
  /** What is delivered and measured. */
  file: fileSchema.required(),
  /** Further files of each part, written in the same go. */
  more: array(fileSchema.required())
    .max(6, say`A spec has at most seven files for each part.`)
    .default([]),
  /** Channel counts the client takes. */
  channels: array(number().required()).required(),
  /** Template of file names without their ending; see fileNames. */
  naming: string()
    .trim()
    .required(say`Say how files are named, for example {project}_{nn}_{part}.`)
    .max(200, say`A file name has at most 200 letters.`)
    .test({
      name: 'fields',
      message: ({ value }: { value: string }) =>
        say`There is no field {${unknownFields(value)[0]}}. Known: ${Object.keys(nameFields)
          .map((field) => `{${field}}`)
          .join(' ')}.`,
      test: (template) => unknownFields(template).length === 0,
    })
    .default(defaultNaming),
  /** The client wants the voice as it was recorded: gain may be changed, peaks may not be limited. */
  unprocessed: boolean().default(false),
});

export type Spec = InferType<typeof specSchema>;
export type Limit = { min: number | null; max: number | null };

/** A spec stored by an earlier version, with the defaults of what has been added since. */
export const upgradeSpec = (stored: unknown): Spec => specSchema.cast(stored) as Spec;

export const noLimits = Object.fromEntries(measures.map((measure) => [measure, null])) as Record<
  Measure,
  Limit | null
>;
