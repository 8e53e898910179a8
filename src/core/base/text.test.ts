import { splitIntoLines, splitScript } from './text';

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

describe('a script becomes lines', () => {
  const text = 'One. Two\r\nthree.\n\nFour  five.\n \nSix.';
  test.each([
    ['sentences', ['One.', 'Two', 'three.', 'Four five.', 'Six.']],
    ['lines', ['One. Two', 'three.', 'Four five.', 'Six.']],
    ['paragraphs', ['One. Two three.', 'Four five.', 'Six.']],
  ] as const)('by %s', (rule, lines) => expect(splitScript(text, rule)).toEqual(lines));
});
