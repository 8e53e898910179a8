/** A take's number in a circle, as far as there are such signs. */
export const circledNumber = (number: number) =>
  number >= 1 && number <= 20 ? String.fromCodePoint(0x245f + number) : `(${number})`;
