import { parseForeignJson } from './json';

test('a byte-order mark is passed over, and everything else is what JSON says', () => {
  const value = { a: [1, 'two', null, { b: true }], '': 'empty', 0: 'number' };
  expect(parseForeignJson(JSON.stringify(value))).toEqual(value);
  expect(parseForeignJson(`\uFEFF${JSON.stringify(value)}`)).toEqual(value);
  expect(() => parseForeignJson('{')).toThrow(SyntaxError);
});

test('keys that every object has by itself are left out, at any depth', () => {
  const text =
    '{"a":1,"__proto__":{"admin":true},"constructor":1,"b":{"toString":2,"c":[{"valueOf":3,"d":4}]}}';
  const read = parseForeignJson(text);
  expect(read).toEqual({ a: 1, b: { c: [{ d: 4 }] } });
  expect(Object.getPrototypeOf(read)).toBe(Object.prototype);
  expect((read as { admin?: boolean }).admin).toBeUndefined();
});

test('every value is shown to the check, which may refuse it', () => {
  const check = (value: unknown) => {
    if (value === 1e300) throw new RangeError('too large');
  };
  expect(parseForeignJson('[1, 2]', check)).toEqual([1, 2]);
  expect(() => parseForeignJson('{"a": [1e300]}', check)).toThrow('too large');
});
