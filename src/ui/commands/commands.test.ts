import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { useKeymap } from '@/state/page/keymap';
import { useTransport } from '@/state/hearing/transport';
import { usePart } from '@/state/sheet/part';
import { chordOf, chordText, isBrowsersOwn, isChord, type Chord } from './chord';
import { edits } from './groups/editing';
import { looking } from './groups/looking';
import { marking } from './groups/marking';
import { mixing } from './groups/mixing';
import { moving } from './groups/moving';
import { recordAndPlay } from './groups/recordAndPlay';
import { rooms } from './groups/rooms';
import {
  commandsOf,
  conflictsOf,
  giveKey,
  isChanged,
  keysOf,
  keyText,
  resetAllKeys,
  resetKeys,
  setKeys,
  withKeys,
} from './keys';
import { keymapFromJson, keymapToJson } from './keymapFile';
import {
  canShare,
  commandIds,
  commands,
  isCommandId,
  isMeantIn,
  press,
  run,
  type CommandId,
} from './registry';

jest.mock('@/storage/settings', () => ({
  readSetting: () => Promise.resolve(undefined),
  writeSetting: () => Promise.resolve(),
}));
// Workers are started when they are first asked for something; none is here.
beforeEach(() => useKeymap.setState({ changes: {} }));

/**
 * What a US keyboard tells for the keys that are no letters, plain and with Shift (UI Events KeyboardEvent
 * key and code values).
 */
const characters: Record<string, [code: string, shifted: string]> = {
  '[': ['BracketLeft', '{'],
  ']': ['BracketRight', '}'],
  ';': ['Semicolon', ':'],
  "'": ['Quote', '"'],
  ',': ['Comma', '<'],
  '.': ['Period', '>'],
  '=': ['Equal', '+'],
  '-': ['Minus', '_'],
  '/': ['Slash', '?'],
  '1': ['Digit1', '!'],
  '2': ['Digit2', '@'],
  '3': ['Digit3', '#'],
  '4': ['Digit4', '$'],
};
const namedKeys: Record<string, string> = { space: ' ', plus: '+' };

/** The key event that a chord is pressed as on a US keyboard. */
function pressed(chord: Chord) {
  const parts = chord.split('+');
  const name = parts.pop() ?? '';
  const mod = parts.includes('mod');
  const shift = parts.includes('shift');
  const event = (key: string, code: string, shiftKey = shift) => ({
    key,
    code,
    shiftKey,
    ctrlKey: mod,
    metaKey: false,
  });
  if (name === 'plus') return event('+', 'NumpadAdd');
  if (characters[name]) return event(shift ? characters[name][1] : name, characters[name][0]);
  const shiftedFrom = Object.entries(characters).find(([, [, shifted]]) => shifted === name);
  if (shiftedFrom) return event(name, shiftedFrom[1][0], true);
  if (/^[a-z]$/.test(name)) return event(shift ? name.toUpperCase() : name, `Key${name.toUpperCase()}`);
  return event(namedKeys[name] ?? name, name);
}

describe('every key there is', () => {
  const all = commandIds.flatMap((id) => commands[id].keys.map((chord): [CommandId, Chord] => [id, chord]));

  test.each(all)('%s: %s can be pressed, and is what is pressed', (id, chord) => {
    expect(isChord(chord)).toBe(true);
    expect(isBrowsersOwn(chord)).toBe(false);
    expect(chordOf(pressed(chord))).toBe(chord);
    expect(commandsOf(chordOf(pressed(chord)))).toContain(id);
  });

  test('none means two things at once', () => {
    const twice = all.flatMap(([id, chord]) => conflictsOf(id, chord).map((other) => [chord, id, other]));
    expect(twice).toEqual([]);
    // One key for three situations: while recording, while nothing runs, and in the Finish screen.
    expect(commandsOf('backspace')).toEqual(['retakeSentence', 'strike', 'removePoint']);
    expect(commandsOf('backspace').filter((id) => isMeantIn('booth', id))).toEqual([
      'retakeSentence',
      'strike',
    ]);
    expect(commandsOf('backspace').filter((id) => isMeantIn('finish', id))).toEqual(['removePoint']);
    expect(canShare('stripLouder', 'louder')).toBe(true);
    expect(canShare('stripLouder', 'nextMark')).toBe(false);
    expect(canShare('retakeSentence', 'strike')).toBe(true);
    expect(canShare('play', 'strike')).toBe(false);
  });

  test('has words, a group, and on a Mac its own sign', () => {
    for (const id of commandIds) expect(commands[id].label).toMatch(/^[A-Z0-9].{2,}/);
    expect(chordText('shift+mod+z', 'MacIntel')).toBe('Shift ⌘ Z');
    expect(chordText('shift+mod+z', 'Linux x86_64')).toBe('Shift Ctrl Z');
    expect(chordText('mod+plus', 'Win32')).toBe('Ctrl +');
  });
});

describe('pressing', () => {
  test('with Ctrl and Shift a key is told by where it is; a character is not told twice', () => {
    const event = { shiftKey: true, ctrlKey: true, metaKey: false };
    expect(chordOf({ ...event, key: '+', code: 'Equal' })).toBe('shift+mod+=');
    expect(chordOf({ ...event, key: '_', code: 'Minus' })).toBe('shift+mod+-');
    expect(chordOf({ ...event, ctrlKey: false, key: '{', code: 'BracketLeft' })).toBe('{');
    expect(chordOf({ ...event, ctrlKey: false, metaKey: true, key: 'Z', code: 'KeyZ' })).toBe('shift+mod+z');
    expect(chordOf({ ...event, ctrlKey: false, key: ' ', code: 'Space' })).toBe('shift+space');
  });

  test('acts only in the situation it is for', () => {
    const caret = () => usePart.getState().caret;
    usePart.setState({ caret: 7 });
    useTransport.setState({ mode: 'recording' });
    run('start');
    expect(caret()).toBe(7);
    useTransport.setState({ mode: 'idle' });
    run('start');
    expect(caret()).toBe(0);
    // Of two with one key it is the one that is meant.
    usePart.setState({ caret: 7 });
    press(['retakeSentence', 'start']);
    expect(caret()).toBe(0);
    // What plays is listened to until something is done.
    usePart.setState({ caret: 7 });
    useTransport.setState({ mode: 'playing' });
    run('start');
    expect(caret()).toBe(0);
    useTransport.setState({ mode: 'idle' });
  });
});

describe('keys of one’s own', () => {
  test('take the place of others, and are shown wherever the command is', () => {
    giveKey('closeUp', 'shift+c', 'mod+j');
    expect(keysOf('closeUp')).toEqual(['shift+c']);
    expect(commandsOf('shift+c')).toEqual(['closeUp']);
    expect(commandsOf('mod+j')).toEqual([]);
    expect(keyText('closeUp')).toBe('Shift C');
    expect(withKeys('Press {key:closeUp}, or {key:nothing}.')).toBe('Press Shift C, or {key:nothing}.');
  });

  test('a key that another command has is told of, and taken from it only when wanted', () => {
    expect(conflictsOf('closeUp', 'f')).toEqual(['flub']);
    giveKey('closeUp', 'f', null);
    expect(keysOf('closeUp')).toEqual(['mod+j', 'f']);
    expect(keysOf('flub')).toEqual([]);
    expect(withKeys('{key:flub}')).toBe('“Flub mark”');
    // Its own key is not taken back from the one that has it now.
    expect(resetKeys('flub')).toEqual([{ chord: 'f', by: 'closeUp' }]);
    expect(keysOf('flub')).toEqual([]);
    expect(resetKeys('closeUp')).toEqual([]);
    expect(resetKeys('flub')).toEqual([]);
    expect([keysOf('flub'), isChanged('flub')]).toEqual([['f'], false]);
  });

  test('are all as they were when that is wanted; the same keys are no change', () => {
    setKeys('undo', []);
    setKeys('redo', commands.redo.keys);
    expect(Object.keys(useKeymap.getState().changes)).toEqual(['undo']);
    resetAllKeys();
    expect(keysOf('undo')).toEqual(['mod+z']);
  });
});

describe('a file of keys', () => {
  test('comes back as it was written', () => {
    giveKey('closeUp', 'shift+c', 'mod+j');
    setKeys('undo', []);
    const text = keymapToJson(useKeymap.getState().changes);
    const read = keymapFromJson(text);
    useKeymap.setState({ changes: read });
    for (const id of commandIds) expect(keysOf(id)).toEqual(JSON.parse(text).keys[id]);
    expect(keysOf('closeUp')).toEqual(['shift+c']);
  });

  const file = (keys: unknown) => JSON.stringify({ format: 'parola-keys', version: 1, keys });

  test('may name only some commands: the others keep their own', () => {
    useKeymap.setState({ changes: keymapFromJson(file({ loupe: ['shift+z'] })) });
    expect([keysOf('loupe'), keysOf('undo')]).toEqual([['shift+z'], ['mod+z']]);
  });

  test.each<[string, string, RegExp]>([
    ['no JSON', '{', /not JSON/],
    ['something else', '{"format":"x","version":1,"keys":{}}', /“format” is not/],
    ['a newer one', JSON.stringify({ format: 'parola-keys', version: 2, keys: {} }), /newer Parola/],
    ['keys that are a list', file([1]), /is not what it should be/],
    ['a command that is none', file({ fly: ['f'] }), /no command “fly”/],
    ['a name that every object has', file({ constructor: ['f'] }), /no command “constructor”/],
    ['a key that is none', file({ loupe: ['Ctrl-Z'] }), /“Ctrl-Z”, for “Loupe”, is no key/],
    ['a number for a key', file({ loupe: [3] }), /is not what it should be/],
    ['a key of the browser', file({ loupe: ['mod+w'] }), /Ctrl W, for “Loupe”, is kept by the browser/],
    [
      'one key for two',
      file({ loupe: ['shift+z'], undo: ['shift+z'] }),
      /“Loupe” and to “Undo”|“Undo” and to “Loupe”/,
    ],
    ['one key that another has of its own', file({ loupe: ['f'] }), /“Flub mark”/],
    ['far too much', 'x'.repeat(300_000), /far too large/],
  ])('with %s is refused with the reason', (_name, text, reason) => {
    expect(() => keymapFromJson(text)).toThrow(reason);
    expect(() => keymapFromJson(text)).toThrow(/^This is no file of keys/);
  });
});

test('every key that a message names is one there is', () => {
  const files = readdirSync('src', { recursive: true, withFileTypes: true }).filter(
    (entry) => entry.isFile() && /\.tsx?$/.test(entry.name) && !/\.test\./.test(entry.name),
  );
  const named = files.flatMap((entry) => {
    const text = readFileSync(path.join(entry.parentPath, entry.name), 'utf8');
    return [...text.matchAll(/\{key:(\w+)\}/g)].map(([, id]) => id);
  });
  expect(named.filter((id) => id !== 'id').length).toBeGreaterThan(3);
  expect(named.filter((id) => id !== 'id' && !isCommandId(id))).toEqual([]);
});

test('no two groups have a command of one id', () => {
  const groups = [recordAndPlay, moving, edits, rooms, marking, mixing, looking];
  expect(groups.flatMap((group) => Object.keys(group)).sort()).toEqual([...commandIds].sort());
});
