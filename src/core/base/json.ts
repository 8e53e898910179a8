/**
 * Reads JSON from outside: a byte-order mark is passed over, as some editors write one (RFC 8259, 8.1 lets a
 * reader ignore it), and keys that every object has by itself (`__proto__`, `constructor`, `toString` …) are
 * left out, since whatever looks a field up by its name would take them for its own. `check` sees every
 * value and may throw. Throws SyntaxError.
 */
export function parseForeignJson(text: string, check: (value: unknown) => void = () => undefined): unknown {
  return JSON.parse(text.replace(/^\uFEFF/, ''), (key, value: unknown) => {
    check(value);
    return key in Object.prototype ? undefined : value;
  });
}
