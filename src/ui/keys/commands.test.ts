import { commands } from './commands';

/** One key with two meanings, each for its own situation: while recording, and while nothing runs. */
const shared = ['backspace'];

test('no key means two things at once', () => {
  const seen = new Map<string, string>();
  const twice: string[] = [];
  for (const { keys, label } of commands) {
    for (const key of keys) {
      if (seen.has(key) && !shared.includes(key)) twice.push(`${key}: ${seen.get(key)}, ${label}`);
      seen.set(key, label);
    }
  }
  expect(twice).toEqual([]);
});

test('every key is written as the keyboard tells it, in the order shift, mod, key', () => {
  for (const { keys } of commands)
    for (const key of keys) expect(key).toMatch(/^(shift\+)?(mod\+)?([^+\s]|[a-z]{2,})$/);
});

test('keys the browser keeps for itself are not used', () => {
  const kept = ['mod+t', 'mod+n', 'mod+w', 'mod+r', 'mod+l', 'shift+mod+n', 'shift+mod+t', 'f5'];
  const used = new Set(commands.flatMap(({ keys }) => keys));
  expect(kept.filter((key) => used.has(key))).toEqual([]);
});

test('every command has words and a group', () => {
  for (const { label, group } of commands) {
    expect(label).toMatch(/^[A-Z0-9].{2,}/);
    expect(group.length).toBeGreaterThan(2);
  }
});
