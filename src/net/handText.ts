import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { isSecret, seal, unseal } from './secret';

const head = 'parola-line';

/** A text that people send each other where no server is between: the secret, and what is sealed with it. */
export const writeHandText = async (secret: string, value: unknown): Promise<string> =>
  `${head}.${secret}.${await seal(secret, value)}`;

/** Blanks and line ends that a mail has put in are passed over. Throws ParolaError `damaged-file`. */
export async function readHandText(text: string): Promise<{ secret: string; value: unknown }> {
  const [begin, secret = '', sealed = ''] = text.replace(/\s+/g, '').split('.');
  if (begin !== head || !isSecret(secret))
    throw new ParolaError(
      'damaged-file',
      say`This is no text for a line: one begins with “${head}.” Copy all of it, from its beginning to its end.`,
    );
  return { secret, value: await unseal(secret, sealed) };
}
