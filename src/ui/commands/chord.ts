import { say } from '@/texts/say';
/**
 * A chord is how a key is written down: `shift+mod+j`, `space`, `[`. `mod` is Ctrl, or ⌘ where there is one;
 * the last word is the key as the keyboard tells it (KeyboardEvent.key, UI Events), in lower case. What Shift
 * has already done to a character (`{`, `?`) is not told twice.
 */
export type Chord = string;

type KeyPress = Pick<KeyboardEvent, 'key' | 'code' | 'shiftKey' | 'ctrlKey' | 'metaKey'>;

const named: Record<string, string> = { ' ': 'space', '+': 'plus' };

/**
 * With Ctrl and Shift the key is told by where it is: `Shift+Ctrl+=` would be `+` on one keyboard and
 * something else on another.
 */
const byCode: Record<string, string> = {
  Equal: '=',
  Minus: '-',
  Semicolon: ';',
  Quote: "'",
  BracketLeft: '[',
  BracketRight: ']',
  Comma: ',',
  Period: '.',
  Slash: '/',
  Backslash: '\\',
  Backquote: '`',
};

const isCharacter = (key: string) => key.length === 1 && !/[a-z]/.test(key);

/** Shift, Ctrl and the like by themselves are no chord yet. */
export const isModifier = ({ key }: Pick<KeyPress, 'key'>) =>
  ['Shift', 'Control', 'Meta', 'Alt', 'AltGraph', 'CapsLock', 'Dead', 'Process', 'Unidentified'].includes(
    key,
  );

export function chordOf(event: KeyPress): Chord {
  const mod = event.ctrlKey || event.metaKey;
  const key = event.key.toLowerCase();
  const place = byCode[event.code] ?? (/^Digit(\d)$/.exec(event.code)?.[1] || undefined);
  if (mod && event.shiftKey && isCharacter(key) && place) return `shift+mod+${place}`;
  const shift = event.shiftKey && (!isCharacter(key) || key === ' ');
  return [shift ? 'shift' : '', mod ? 'mod' : '', named[key] ?? key].filter(Boolean).join('+');
}

export const isChord = (text: unknown): text is Chord =>
  typeof text === 'string' && /^(shift\+)?(mod\+)?([^+\sA-Z]|[a-z][a-z0-9]+)$/.test(text);

/** Browsers do not give these to a page, or close it. */
const browsersOwn = new Set(
  ['t', 'n', 'w', 'r', 'l', 'q', 'tab']
    .map((key) => `mod+${key}`)
    .concat([
      ...['n', 't', 'w', 'r', 'q', 'i', 'tab'].map((key) => `shift+mod+${key}`),
      'f5',
      'f11',
      'f12',
      'tab',
      'shift+tab',
    ]),
);

export const isBrowsersOwn = (chord: Chord) => browsersOwn.has(chord);

const words: Record<string, string> = {
  space: say`Space`,
  plus: '+',
  enter: 'Enter',
  escape: say`Esc`,
  arrowleft: '←',
  arrowright: '→',
  arrowup: '↑',
  arrowdown: '↓',
  backspace: say`Backspace`,
  delete: 'Delete',
  home: say`Home`,
  end: say`End`,
  pageup: say`Page up`,
  pagedown: say`Page down`,
};

/** The words of the user's system: Ctrl, or the sign on a Mac's key. */
export const modWord = (platform: string) => (/mac|iphone|ipad/i.test(platform) ? '⌘' : say`Ctrl`);

/** A chord as it is told to the user. */
export function chordText(chord: Chord, platform: string): string {
  const parts = chord.split('+');
  const key = parts.pop() ?? '';
  const modifiers = parts.map((part) => (part === 'mod' ? modWord(platform) : say`Shift`));
  return [...modifiers, words[key] ?? key.toUpperCase()].join(' ');
}
