import { execFileSync } from 'node:child_process';
import { File } from 'node:buffer';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { textOfPages } from '@/core/script/pdfText';
import { readScript } from './scriptFile';

const context = { signal: new AbortController().signal, progress: () => undefined };
const directory = mkdtempSync(path.join(tmpdir(), 'parola-scripts-'));
afterAll(() => rmSync(directory, { recursive: true }));

const book = `# The lamp

The stair has ninety-four steps, *and every keeper* counted them. “Look down,” she said.

The oil was carried up — twelve litres — in cans.

# Ünder the rock

What you hear is the sea:

- the door
- the bell

Nobody answered.
`;

/** Made by pandoc (John MacFarlane), which knows nothing of Parola. */
function made(kind: 'docx' | 'epub', text = book): File {
  const file = path.join(directory, `book.${kind}`);
  execFileSync('pandoc', ['-f', 'markdown', '-o', file, '--metadata', 'title=A book'], { input: text });
  return new File([readFileSync(file)], `book.${kind}`);
}

const asFile = (file: File) => file as unknown as globalThis.File;

test.each(['docx', 'epub'] as const)(
  'a %s from pandoc: its chapters by name, every word, no markup',
  async (kind) => {
    const { chapters } = await readScript({ file: asFile(made(kind)), kind }, context);
    const told = chapters.filter(({ name }) => name !== 'A book' && name !== '');
    expect(told.map(({ name }) => name)).toEqual(['The lamp', 'Ünder the rock']);
    expect(told.map(({ text }) => text.replace(/\s+/g, ' '))).toEqual([
      'The stair has ninety-four steps, and every keeper counted them. “Look down,” she said. The oil was carried up — twelve litres — in cans.',
      'What you hear is the sea: the door the bell Nobody answered.',
    ]);
    // Paragraphs stay apart.
    expect(told[0].text.split(/\n\n+/)).toHaveLength(2);
  },
);

/** Runs of text as they stand on a page, in points; 12 points high, each letter 6 wide. */
const page = (...texts: (readonly [x: number, y: number, text: string])[]) => ({
  height: 842,
  runs: texts.map(([x, y, text]) => ({ text, x, y, width: 6 * text.length, height: 12 })),
});

test('a PDF: lines become paragraphs, divided words are whole, heads and numbers of pages are not read', () => {
  const text = textOfPages([
    page(
      [72, 800, 'The Lamp House'],
      [72, 700, 'The stair has'],
      [156, 700, 'ninety-four steps, and every kee-'],
      [72, 685, 'per counted them in the dark.'],
      [92, 670, 'The oil was carried up in cans of twelve litres, and it'],
      [290, 40, '1'],
    ),
    page(
      [72, 800, 'The Lamp House'],
      [72, 700, 'took two of them. Nobody said Anglo-'],
      [72, 685, 'Saxon.'],
      [72, 640, 'After a gap it goes on.'],
      [290, 40, '2'],
    ),
  ]);
  expect(text.split('\n\n')).toEqual([
    'The stair has ninety-four steps, and every keeper counted them in the dark.',
    'The oil was carried up in cans of twelve litres, and it took two of them. Nobody said Anglo-Saxon.',
    'After a gap it goes on.',
  ]);
});

test.each([
  ['docx', 'DOCX'],
  ['epub', 'EPUB'],
] as const)('what is no %s is refused with what to do', async (kind, told) => {
  const file = asFile(new File(['no such thing'], `odd.${kind}`));
  await expect(readScript({ file, kind }, context)).rejects.toMatchObject({
    code: 'damaged-file',
    message: expect.stringContaining(`cannot be read as ${told}`),
  });
});

test('an EPUB that lacks a chapter, or is encrypted, is refused; nothing is read by halves', async () => {
  const file = path.join(directory, 'broken.epub');
  writeFileSync(file, Buffer.from(await made('epub').arrayBuffer()));
  execFileSync('zip', ['-qd', file, 'EPUB/text/ch001.xhtml']);
  const broken = asFile(new File([readFileSync(file)], 'broken.epub'));
  await expect(readScript({ file: broken, kind: 'epub' }, context)).rejects.toMatchObject({
    code: 'damaged-file',
    message: expect.stringContaining('not whole'),
  });
});
