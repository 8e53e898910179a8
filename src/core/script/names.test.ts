import { mostNames, NameFinder, namesText, parseNames } from './names';
import { scriptPage } from './scriptPage';

describe('names and how they are said', () => {
  it('reads a line for each name, and writes them the same way', () => {
    const names = parseNames('Aoife = EE-fa\n\n  Worcester=WUSS-ter \r\nx = y = z');
    expect(names).toEqual([
      { name: 'Aoife', say: 'EE-fa' },
      { name: 'Worcester', say: 'WUSS-ter' },
      { name: 'x', say: 'y = z' },
    ]);
    expect(parseNames(namesText(names))).toEqual(names);
    expect(parseNames('A = one\nA = two')).toEqual([{ name: 'A', say: 'two' }]);
  });

  it.each([
    ['Aoife', /Line 1/],
    ['A = a\nB =', /Line 2/],
    [' = EE-fa', /Line 1/],
    [`A = ${'a'.repeat(81)}`, /80 letters/],
    [Array.from({ length: mostNames + 1 }, (_, i) => `n${i} = a`).join('\n'), /at most 500/],
  ])('says which line is none: %#', (text, said) => {
    expect(() => parseNames(text)).toThrow(said);
  });

  it('finds whole words as they are written, the longer of two first', () => {
    const finder = new NameFinder([
      { name: 'Ana', say: 'AH-na' },
      { name: 'Ana Lindt', say: 'AH-na LINT' },
      { name: 'C++', say: 'see plus plus' },
      { name: 'Ångström', say: 'ONG-strum' },
    ]);
    expect(finder.in('Ana met Ana Lindt; Anabel, ana and Santana did not.')).toEqual([
      { text: 'Ana', say: 'AH-na' },
      { text: ' met ' },
      { text: 'Ana Lindt', say: 'AH-na LINT' },
      { text: '; Anabel, ana and Santana did not.' },
    ]);
    expect(finder.in('C++ by Ångström')).toEqual([
      { text: 'C++', say: 'see plus plus' },
      { text: ' by ' },
      { text: 'Ångström', say: 'ONG-strum' },
    ]);
    expect(finder.in('')).toEqual([{ text: '' }]);
    expect(new NameFinder([]).in('Ana')).toEqual([{ text: 'Ana' }]);
  });

  it('puts them above the words of a page to print, as text only', () => {
    const page = scriptPage(
      'Book <1>',
      [
        { name: 'One', lines: [{ text: 'Aoife & <b>co</b>' }] },
        { name: 'Empty', lines: [] },
      ],
      [{ name: 'Aoife', say: '<EE>-fa' }],
    );
    expect(page).toContain('<ruby>Aoife<rt>&lt;EE&gt;-fa</rt></ruby> &amp; &lt;b&gt;co&lt;/b&gt;');
    expect(page).toContain('<h1>Book &lt;1&gt;</h1>');
    expect(page).not.toContain('Empty');
  });
});
