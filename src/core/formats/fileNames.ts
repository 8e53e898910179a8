import sanitize from 'sanitize-filename';

/**
 * File systems take 255 bytes; some room is left for “ (1)”, an ending, and for clients who add their own
 * number.
 */
const longestFieldBytes = 120;
const longestNameBytes = 200;

/** A name every file system takes: spaces become hyphens, forbidden characters and quotes go. Never empty. */
export function safeName(name: string, longestBytes = longestFieldBytes): string {
  const cleaned = cleanName(name);
  let short = '';
  let bytes = 0;
  for (const letter of cleaned) {
    bytes += utf8Bytes(letter);
    if (bytes > longestBytes) break;
    short += letter;
  }
  return short.replace(/[-._]+$/g, '') || 'untitled';
}

function cleanName(name: string): string {
  return sanitize(
    name
      .normalize('NFC')
      .replace(/[/\\:]+/g, '-')
      .replace(/["'“”‘’`]/g, ''),
    { replacement: '' },
  )
    .replace(/\s+/g, '-')
    .replace(/-{2,}/g, '-')
    .replace(/^[-.]+|[-.]+$/g, '');
}

/** Bytes of one code point in UTF-8 (RFC 3629). */
function utf8Bytes(letter: string): number {
  const code = letter.codePointAt(0) ?? 0;
  return code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
}

/** What a template of file names can hold, with what stands there. */
export const nameFields = {
  project: 'the project',
  part: 'the part',
  n: 'its number',
  nn: 'its number, two digits or more',
  voice: 'who reads',
  take: 'the circled take',
  spec: 'the spec',
  date: 'today, 2026-11-25',
  rate: 'the sample rate, 44100',
} as const;
export type NameField = keyof typeof nameFields;

export interface NameParts {
  project: string;
  part: string;
  number: number;
  parts: number;
  voice: string;
  take: string;
  spec: string;
  date: string;
  rateHz: number;
}

/** What names of files of cues can hold besides. */
export const cueNameFields = {
  ...nameFields,
  cue: 'the cue’s number',
  character: 'who speaks it',
  take: 'the number of the take',
  in: 'where it begins, 10-00-05-12',
} as const;
export type CueNameParts = NameParts & { cue: string; character: string; in: string };

/** Fields of a template that there are not; those that are misspelt. */
export const unknownFields = (template: string, known: object = nameFields): string[] =>
  [...template.matchAll(/\{([^{}]*)\}/g)].map(([, field]) => field).filter((field) => !(field in known));

/**
 * Fills a template; a field without a text goes, with the separator before it. Without an ending. Never
 * empty, at most 200 bytes.
 */
export function fillTemplate(template: string, parts: NameParts | CueNameParts): string {
  const digits = Math.max(2, String(parts.parts).length);
  const values: Record<string, string> & Record<NameField, string> = {
    project: parts.project,
    part: parts.part,
    n: String(parts.number),
    nn: String(parts.number).padStart(digits, '0'),
    voice: parts.voice,
    take: parts.take,
    spec: parts.spec,
    date: parts.date,
    rate: String(parts.rateHz),
    ...('cue' in parts && { cue: parts.cue, character: parts.character, in: parts.in }),
  };
  const filled = template.replace(/([-_. ]*)\{([^{}]*)\}/g, (_, separator: string, field: string) => {
    if (!(field in values)) return separator;
    const value = values[field];
    return value.trim() === '' ? '' : `${separator}${safeName(value)}`;
  });
  return safeName(filled.replace(/^[-_. ]+/, ''), longestNameBytes);
}

/**
 * Names made different where two would be the same file: file systems often take capitals for small letters.
 * The first keeps its name.
 */
export function withoutCollisions(names: readonly string[]): string[] {
  const taken = new Set<string>();
  return names.map((name) => {
    const dot = name.lastIndexOf('.');
    const [base, ending] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, ''];
    let unique = name;
    for (let count = 2; taken.has(unique.toLowerCase()); count++) unique = `${base}-${count}${ending}`;
    taken.add(unique.toLowerCase());
    return unique;
  });
}

export const fileEnding = (container: string) => (container === 'aiff' ? 'aif' : container);
