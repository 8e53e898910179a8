/**
 * Text for a terminal: what would move its cursor, change its colours, hide or turn around what is printed
 * (control characters, U+2028 and U+2029, and Unicode's bidirectional overrides) stands as its code.
 */
export const printable = (text: string): string =>
  text.replace(/[\p{Cc}\u2028\u2029\u200e\u200f\u202a-\u202e\u2066-\u2069]/gu, (letter) => {
    const code = letter.codePointAt(0) ?? 0;
    return `\\u${code.toString(16).padStart(4, '0')}`;
  });
