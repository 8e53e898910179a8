import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';

/** 128 random bits, as they stand in a link: whoever has them can knock. */
export const newSecret = (): string => toText(crypto.getRandomValues(new Uint8Array(16)));
export const isSecret = (text: string) => /^[\w-]{22}$/.test(text);

function toText(bytes: Uint8Array): string {
  return btoa(String.fromCharCode(...bytes))
    .replaceAll('+', '-')
    .replaceAll('/', '_')
    .replace(/=+$/, '');
}

const toBytes = (text: string) =>
  Uint8Array.from(atob(text.replaceAll('-', '+').replaceAll('_', '/')), (char) => char.charCodeAt(0));

const digest = async (text: string) =>
  new Uint8Array(await crypto.subtle.digest('SHA-256', new TextEncoder().encode(text)));

/** The name of the room a secret leads to: it says nothing of the secret, which never leaves the two ends. */
export const roomOf = async (secret: string): Promise<string> =>
  toText(await digest(`parola room ${secret}`)).slice(0, 32);

async function keyOf(secret: string): Promise<CryptoKey> {
  const bytes = await digest(`parola key ${secret}`);
  return crypto.subtle.importKey('raw', bytes, 'AES-GCM', false, ['encrypt', 'decrypt']);
}

/** A value that only who has the secret can read or make (AES-256-GCM, NIST SP 800-38D). */
export async function seal(secret: string, value: unknown): Promise<string> {
  const iv = crypto.getRandomValues(new Uint8Array(12));
  const plain = new TextEncoder().encode(JSON.stringify(value));
  const sealed = new Uint8Array(
    await crypto.subtle.encrypt({ name: 'AES-GCM', iv }, await keyOf(secret), plain),
  );
  const whole = new Uint8Array(12 + sealed.length);
  whole.set(iv);
  whole.set(sealed, 12);
  // In parts: a call takes only so many arguments.
  let text = '';
  for (let at = 0; at < whole.length; at += 3000) text += toText(whole.subarray(at, at + 3000));
  return text;
}

/** Throws ParolaError `damaged-file` for what was sealed with another secret, or changed. */
export async function unseal(secret: string, text: string): Promise<unknown> {
  try {
    const whole = toBytes(text);
    const plain = await crypto.subtle.decrypt(
      { name: 'AES-GCM', iv: whole.subarray(0, 12) },
      await keyOf(secret),
      whole.subarray(12),
    );
    return JSON.parse(new TextDecoder().decode(plain));
  } catch {
    throw new ParolaError(
      'damaged-file',
      say`This text is not of this session, or not whole. Copy all of it once more.`,
    );
  }
}
