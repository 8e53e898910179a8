import { printable } from './printable';

test.each([
  ['plain ünd “fine” 試験 🎙.wav', 'plain ünd “fine” 試験 🎙.wav'],
  ['\u001b[31mred\u001b[0m', '\\u001b[31mred\\u001b[0m'],
  ['\u009b2Ja\nb\rc\td\u0007', '\\u009b2Ja\\u000ab\\u000dc\\u0009d\\u0007'],
  ['gpj.\u202eexe\u2066x', 'gpj.\\u202eexe\\u2066x'],
])('%j is printed as %s', (text, printed) => {
  expect(printable(text)).toBe(printed);
});
