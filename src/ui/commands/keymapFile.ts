import { say } from '@/texts/say';
import { array, lazy, number, object, string, ValidationError } from 'yup';
import { ParolaError } from '@/core/base/errors';
import type { KeyChanges } from '@/state/page/keymap';
import { chordText, isBrowsersOwn, isChord } from './chord';
import { conflictsOf, keysOf, platform } from './keys';
import { commandIds, commands, isCommandId } from './registry';

/**
 * A keymap as a file; docs/formats.md describes it. All commands are in it, so that it can be read and
 * edited.
 */
export const keymapFileName = 'parola-keys.json';
const format = 'parola-keys';
const version = 1;
const mostLetters = 200_000;

const fileSchema = object({
  format: string().oneOf([format]).required(),
  version: number().integer().min(1).required(),
  keys: lazy((keys: unknown) =>
    object(
      Object.fromEntries(
        Object.keys((keys as object | null) ?? {}).map((id) => [
          id,
          array(string().defined()).max(8).required(),
        ]),
      ),
    ).required(),
  ),
});

export function keymapToJson(changes: KeyChanges): string {
  const keys = Object.fromEntries(commandIds.map((id) => [id, keysOf(id, changes)]));
  return `${JSON.stringify({ format, version, keys }, null, 2)}\n`;
}

const refused = (what: string) => new ParolaError('damaged-file', say`This is no file of keys: ${what}`);

/**
 * Reads a file of keys. Throws ParolaError with what is wrong; then nothing has changed. Commands it does not
 * name keep their own keys.
 */
export function keymapFromJson(text: string): KeyChanges {
  if (text.length > mostLetters) throw refused(say`it is far too large.`);
  let raw: unknown;
  try {
    raw = JSON.parse(text);
  } catch {
    throw refused(say`it is not JSON. Choose a file that was saved here.`);
  }
  if ((raw as { version?: unknown } | null)?.version !== undefined) {
    const found = (raw as { version: unknown }).version;
    if (typeof found === 'number' && found > version)
      throw refused(say`it was saved by a newer Parola. Update Parola, then open it again.`);
  }
  let keys: KeyChanges;
  try {
    keys = (fileSchema.validateSync(raw, { strict: true }) as { keys: KeyChanges }).keys;
  } catch (error) {
    const where = error instanceof ValidationError && error.path ? `“${error.path}”` : say`its form`;
    throw refused(say`${where} is not what it should be. Choose a file that was saved here.`);
  }
  check(keys);
  return keys;
}

function check(keys: KeyChanges) {
  for (const [id, chords] of Object.entries(keys)) {
    if (!isCommandId(id)) throw refused(say`there is no command “${id}”. Take that line out.`);
    for (const chord of chords) {
      if (!isChord(chord)) throw refused(say`“${chord}”, for “${commands[id].label}”, is no key.`);
      const name = chordText(chord, platform());
      if (isBrowsersOwn(chord))
        throw refused(
          say`${name}, for “${commands[id].label}”, is kept by the browser. Give it another key.`,
        );
      const [other] = conflictsOf(id, chord, keys);
      if (other)
        throw refused(
          say`${name} is given to “${commands[id].label}” and to “${commands[other].label}”. Take one away.`,
        );
    }
  }
}
