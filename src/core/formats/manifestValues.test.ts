import { ParolaError } from '../base/errors';
import { given, idOf, list, oneOf, real, record, text, whole, type ReadingContext } from './manifestValues';

const context: ReadingContext = {
  part: 'One',
  mostFrames: 100,
  rateHz: 48_000,
  sources: new Map(),
  renameSource: (id) => id,
  struckPieces: false,
};

/** True when it is taken; a refusal has to name the part and be of the kind that a user is told. */
function takes(read: () => unknown): boolean {
  try {
    read();
    return true;
  } catch (error) {
    expect(error).toBeInstanceOf(ParolaError);
    expect(error).toMatchObject({ code: 'damaged-file', message: expect.stringMatching(/“One”/) as string });
    return false;
  }
}

const odd = [undefined, null, 'x', '', '5', true, NaN, Infinity, -Infinity, 2.5, {}, [], [5], () => 5];

test('a whole number is one within its limits, and nothing that could be made into one', () => {
  const taken = (value: unknown) => takes(() => whole(value, 3, 9, context, 'a number'));
  expect([2, 3, 5, 9, 10].map(taken)).toEqual([false, true, true, true, false]);
  for (const value of odd) expect([value, taken(value)]).toEqual([value, false]);
});

test('a number lies within its limits, and is one', () => {
  const taken = (value: unknown) => takes(() => real(value, -1, 2.5, context, 'a number'));
  expect([-1.1, -1, 0.3, 2.5, 2.6].map(taken)).toEqual([false, true, true, true, false]);
  for (const value of odd.filter((one) => one !== 2.5)) expect([value, taken(value)]).toEqual([value, false]);
});

test('text is text, no longer than it may be; an id is not empty and no name the language has', () => {
  const taken = (value: unknown) => takes(() => text(value, 4, context, 'a name'));
  expect(['', 'abcd', 'abcde'].map(taken)).toEqual([true, true, false]);
  for (const value of [undefined, null, 5, {}, ['a']]) expect(taken(value)).toBe(false);
  const named = (value: unknown) => takes(() => idOf(value, context, 'an id'));
  expect(['a', 'x'.repeat(200), '', '__proto__', 'x'.repeat(201), 5].map(named)).toEqual([
    ...[true, true, false, false, false, false],
  ]);
});

test('a record is an object, a list an array that is not too long', () => {
  const taken = (value: unknown) => takes(() => record(value, context, 'a thing'));
  expect([{}, { a: 1 }, [], null, undefined, 'x', 5].map(taken)).toEqual([
    ...[true, true, false, false, false, false, false],
  ]);
  const listed = (value: unknown) => takes(() => list(value, 2, context, 'thing'));
  expect([[], [1, 2], [1, 2, 3], { length: 1 }, 'ab', null].map(listed)).toEqual([
    ...[true, true, false, false, false, false],
  ]);
});

test('one of several words is just that, and what is missing is not given', () => {
  const taken = (value: unknown) => takes(() => oneOf(value, ['left', 'right'], context, 'a side'));
  expect(['left', 'right', 'Left', '', null, 0].map(taken)).toEqual([true, true, false, false, false, false]);
  expect([null, undefined, 0, '', false].map(given)).toEqual([false, false, true, true, true]);
});
