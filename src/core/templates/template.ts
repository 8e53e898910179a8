import { say } from '../../texts/say';
import { array, boolean, mixed, number, object, string, type InferType } from 'yup';
import { readOwnFile } from '../base/ownFile';
import { splitRules } from '../base/text';
import type { Chain } from '../chain/chain';
import { readChain } from '../chain/chainFile';
import { limits } from '../formats/manifestLimits';
import { levelsSchema, recordingSchema } from '../formats/manifestSettings';
import { specSchema } from '../specs/spec';
import { sampleRatesHz } from '../specs/fileFormat';
import { duckingLimits, type Ducking } from '../timeline/ducking';
import { stripLimits } from '../timeline/mix';

/**
 * What a project begins with: its spec, the names of its parts, tracks with their inputs and chains, beds
 * that wait for their sound, how it is recorded and how a script becomes lines. It holds no audio.
 */
export interface Template extends Omit<InferType<typeof templateSchema>, 'tracks' | 'beds'> {
  tracks: TemplateTrack[];
  beds: TemplateBed[];
}

/** A bed of each part: its level in dB, its place from −1 to 1, and how it goes down under speech. */
export interface TemplateBed {
  name: string;
  levelDb: number;
  place: number;
  ducking?: Ducking;
}

export interface TemplateTrack {
  name: string;
  side?: 'left' | 'right';
  /** Counted from 0: the channel of the input that it records. */
  channel: number;
  armed: boolean;
  chain?: Chain;
}

const formatVersion = 1;
const mostTracks = 16;
const mostParts = 500;

const nameSchema = (what: string) =>
  string()
    .trim()
    .required(say`${what} has no name.`)
    .max(limits.nameLetters, say`${what} has a name of more than ${limits.nameLetters} letters.`);

const trackSchema = object({
  name: nameSchema(say`A track`),
  side: string().oneOf(['left', 'right']).optional(),
  channel: number()
    .strict()
    .integer()
    .min(0)
    .max(limits.channels - 1)
    .required(),
  armed: boolean().strict().required(),
  chain: mixed().optional(),
});

const between = ({ from, to }: { from: number; to: number }) =>
  number().strict().min(from).max(to).required();

const bedSchema = object({
  name: nameSchema(say`A bed`),
  levelDb: between({ from: stripLimits.lowestDb, to: stripLimits.highestDb }),
  place: between({ from: -1, to: 1 }),
  ducking: object({
    amountDb: between(duckingLimits.amountDb),
    downSeconds: between(duckingLimits.downSeconds),
    waitSeconds: between(duckingLimits.waitSeconds),
    upSeconds: between(duckingLimits.upSeconds),
  })
    .optional()
    .default(undefined),
});

const templateSchema = object({
  name: nameSchema(say`The template`),
  note: string().max(limits.nameLetters).default(''),
  spec: specSchema.required(),
  rateHz: number()
    .strict()
    .oneOf([...sampleRatesHz], say`rateHz is one of ${sampleRatesHz.join(', ')}.`)
    .required(),
  joinMs: number().strict().min(0).max(1000).required(),
  parts: array(nameSchema(say`A part`))
    .min(1, say`A template has at least one part.`)
    .max(mostParts, say`A template has at most ${mostParts} parts.`)
    .required(),
  /** How further parts are called; `{n}` is their number. */
  further: nameSchema(say`The name of further parts`),
  tracks: array(trackSchema)
    .min(1, say`A template has at least one track.`)
    .max(mostTracks, say`A template has at most ${mostTracks} tracks.`)
    .required(),
  beds: array(bedSchema)
    .max(mostTracks, say`A template has at most ${mostTracks} beds.`)
    .default([]),
  recording: recordingSchema.optional(),
  levels: levelsSchema.optional(),
  split: string()
    .oneOf([...splitRules])
    .default('sentences'),
});

/** Checks a template of any origin. Throws yup's ValidationError. */
export function readTemplate(value: unknown): Template {
  const { tracks, beds, ...rest } = templateSchema.validateSync(value, {
    stripUnknown: true,
    abortEarly: false,
  });
  return {
    ...rest,
    beds: beds.map(({ ducking, ...bed }) => ({ ...bed, ...(ducking && { ducking }) })),
    tracks: tracks.map(({ chain, ...track }) => ({
      ...track,
      ...(chain !== undefined && { chain: withoutNote(chain) }),
    })),
  };
}

function withoutNote(chain: unknown): Chain {
  const { name, steps } = readChain({ note: '', ...(chain as object) });
  return { name, steps };
}

/** A template as a JSON file that people and programs can read; docs/formats.md describes it. */
export function templateToJson({ tracks, ...template }: Template): string {
  const plain = tracks.map(({ chain, ...track }) => ({
    ...track,
    ...(chain && {
      chain: { name: chain.name, steps: chain.steps.map(({ id: _, ...step }) => step) },
    }),
  }));
  return `${JSON.stringify({ parolaTemplate: formatVersion, ...template, tracks: plain }, null, 2)}\n`;
}

/** Reads a template file. Throws ParolaError `damaged-file` with the field and what is wrong with it. */
export const templateFromJson = (text: string): Template =>
  readOwnFile(text, {
    what: 'template',
    kind: say`a template`,
    field: 'parolaTemplate',
    version: formatVersion,
    read: readTemplate,
  });

/**
 * The name of the part of a number: “Chapter {n}” and 7 are “Chapter 7”; without `{n}` the number follows.
 */
export const partName = (further: string, partNumber: number): string =>
  further.includes('{n}') ? further.replaceAll('{n}', String(partNumber)) : `${further} ${partNumber}`;

/** How parts of these names go on: “Chapter 3” as “Chapter {n}”, anything else as “Part {n}”. */
export function furtherOf(names: readonly string[]): string {
  const last = [...names].reverse().find((name) => /\d/.test(name));
  return last ? last.replace(/\d+(?=\D*$)/, '{n}') : say`Part {n}`;
}

/** The number of the next part: one more than the highest there is in names of that pattern. */
export function nextNumber(further: string, names: readonly string[]): number {
  const [before, after = ''] = (further.includes('{n}') ? further : `${further} {n}`).split('{n}');
  const numbers = names.flatMap((name) => {
    if (!name.startsWith(before) || !name.endsWith(after)) return [];
    const middle = name.slice(before.length, name.length - after.length);
    return /^\d+$/.test(middle) ? [Number(middle)] : [];
  });
  return numbers.length > 0 ? Math.max(...numbers) + 1 : names.length + 1;
}
