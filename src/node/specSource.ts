import { readFile } from 'node:fs/promises';
import { ParolaError } from '@/core/base/errors';
import { builtInSpecs, findSpec } from '@/core/specs/builtIn';
import type { Spec } from '@/core/specs/spec';
import { specFromJson } from '@/core/specs/specFile';

const known = () => builtInSpecs.map(({ name }) => name).join(', ');

/**
 * A spec by the name of a built-in one, or as the text of a spec file. Throws `unknown-spec` or
 * `damaged-file`.
 */
export function specFromText(text: string, hint: string): Spec {
  if (text.trim() === '') throw new ParolaError('unknown-spec', `${hint} Known: ${known()}.`);
  if (text.trimStart().startsWith('{')) return specFromJson(text);
  const spec = findSpec(text);
  if (!spec) throw new ParolaError('unknown-spec', `There is no spec “${text}”. Known: ${known()}.`);
  return spec;
}

/** The same, or the path of a spec file. */
export async function specFromArgument(argument: string): Promise<Spec> {
  if (!argument.endsWith('.json'))
    return specFromText(argument, 'Say which spec to measure against: --spec NAME.');
  const text = await readFile(argument, 'utf8').catch(() => {
    throw new ParolaError('not-found', `There is no spec file ${argument}, or it may not be read.`);
  });
  return specFromJson(text);
}
