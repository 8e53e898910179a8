import { ParolaError } from '@/core/base/errors';
import { builtInSpecs, findSpec } from '@/core/specs/builtIn';
import type { Spec } from '@/core/specs/spec';
import { specFromJson } from '@/core/specs/specFile';
import { FileSource } from './fileSource';

/** No spec is longer. */
const mostSpecBytes = 1_000_000;

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
  const missing = () =>
    new ParolaError('not-found', `There is no spec file ${argument}, or it may not be read.`);
  const source = await FileSource.open(argument).catch(() => {
    throw missing();
  });
  try {
    if (source.size > mostSpecBytes) throw missing();
    return specFromJson(new TextDecoder().decode(await source.read(0, source.size)));
  } finally {
    await source.close();
  }
}
