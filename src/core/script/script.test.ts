import { PieceTable } from '../timeline/pieces';
import { emptyTimeline, type Mark } from '../timeline/timeline';
import { paceOf, usualWordsPerMinute, wholeText, wordsIn } from './document';
import { readEpub } from './epub';
import { chaptersOfMarkup } from './markup';
import { readersPace } from './reading';

test.each([
  ['It’s half-past nine, isn’t it?', 5],
  ['94 steps — and 3,000 litres.', 5],
  ['', 0],
  ['Größe naïve Ångström', 3],
])('“%s” has %d words', (text, words) => expect(wordsIn(text)).toBe(words));

test('a pace is known from what was read, when that is enough', () => {
  expect(paceOf([{ words: 20, seconds: 8 }])).toBeNull();
  expect(
    paceOf([
      { words: 200, seconds: 80 },
      { words: 100, seconds: 40 },
    ]),
  ).toBeCloseTo(150, 9);
  // Common practice: 9,300 words an hour.
  expect(usualWordsPerMinute * 60).toBe(9300);
});

test('markup that is broken gives its text; what is not read aloud is left out', () => {
  const [before, one] = chaptersOfMarkup(
    '<nav>Contents</nav><p>Before &amp; after<h1>One<sup>1</sup></h1><script>no()</script><p>A<br>b<p>c &lt;d&gt;',
  );
  expect(before.text.trim()).toBe('Before & after');
  expect(one.name).toBe('One');
  expect(one.text.trim().split('\n\n')).toEqual(['A\nb', 'c <d>']);
});

test('chapters as one text stand under their names', () => {
  const chapters = [
    { name: '', text: 'a' },
    { name: 'Two', text: 'b' },
  ];
  expect(wholeText({ chapters })).toBe('a\n\nTwo\n\nb');
});

test('an EPUB whose text is encrypted is told apart from one that is broken', async () => {
  const files: Record<string, string> = {
    'META-INF/container.xml': '<container><rootfiles><rootfile full-path="a/b.opf"/></rootfiles></container>',
    'a/b.opf':
      '<package><manifest><item id="1" href="../c%20d.xhtml" media-type="application/xhtml+xml"/></manifest><spine><itemref idref="1"/></spine></package>',
    'c d.xhtml': '<html><body><h2>Named</h2><p>Text.</p></body></html>',
  };
  const read = async (path: string) => files[path] ?? null;
  expect(await readEpub(read)).toEqual({ chapters: [{ name: 'Named', text: 'Named\n\nText.' }] });
  files['META-INF/encryption.xml'] =
    '<encryption><enc:EncryptedData><enc:CipherReference URI="c%20d.xhtml"/></enc:EncryptedData></encryption>';
  await expect(readEpub(read)).rejects.toMatchObject({ code: 'unsupported' });
});

test('a reader’s own pace is that of lines whose end is known, without what is struck', () => {
  const line = (id: string, at: number): Mark => ({
    id: `m${id}`,
    kind: 'line',
    line: id,
    at,
    length: 0,
    name: '',
  });
  const words = (count: number) => Array.from({ length: count }, () => 'word').join(' ');
  const timeline = {
    ...emptyTimeline(['Voice']),
    struck: [{ from: 10_000, to: 14_000 }],
    marks: [line('a', 0), line('b', 34_000), line('c', 64_000)],
  };
  const silence = PieceTable.of([{ kind: 'silence', length: 100_000 }]);
  const read = { ...timeline, tracks: [{ ...timeline.tracks[0], table: silence }] };
  const script = [
    { id: 'a', text: words(100) },
    { id: 'b', text: words(50) },
    { id: 'c', text: words(500) },
  ];
  // 150 words in 30,000 + 30,000 frames at 1,000 a second.
  expect(readersPace([{ script, timeline: read }], 1000)).toBeCloseTo(150, 6);
  expect(readersPace([{ script, timeline }], 1000)).toBeNull();
});
