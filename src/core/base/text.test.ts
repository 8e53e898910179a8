import { splitIntoLines } from './text';

describe('script lines', () => {
  test('end where sentences end; paragraphs too; white space is folded', () => {
    const text =
      'Before you climb,  look down. The stair has\r\nninety-four steps!\n\n“Listen.” Is that all?  ';
    expect(splitIntoLines(text)).toEqual([
      'Before you climb, look down.',
      'The stair has',
      'ninety-four steps!',
      '“Listen.”',
      'Is that all?',
    ]);
  });

  test('abbreviations do not end a line, numbers do not either', () => {
    expect(splitIntoLines('Mr. Corran paid 3.50 for it. He left.')).toEqual([
      'Mr. Corran paid 3.50 for it.',
      'He left.',
    ]);
    expect(splitIntoLines(' \n ')).toEqual([]);
  });
});
