import { helpAddress, helpAt, helpIds } from '@/core/base/helpIds';
import { helpInLanguages } from './helpPages';

const last = { en: 'When something goes wrong', de: 'Wenn etwas schiefgeht' };

test.each(['en', 'de'] as const)(
  'every page a message can point to is there, with a title and words (%s)',
  (language) => {
    const pages = helpInLanguages()[language];
    expect(pages.map(({ id }) => id)).toEqual([...helpIds]);
    for (const { title, text } of pages) {
      expect(title.length).toBeGreaterThan(3);
      expect(text.length).toBeGreaterThan(200);
      expect(text).not.toMatch(/^# /m);
    }
  },
);

test.each(['en', 'de'] as const)(
  'every page ends with what goes wrong, which messages point to (%s)',
  (language) => {
    for (const { text } of helpInLanguages()[language]) {
      const [heading, ...words] = text.split(/^## /m).at(-1)?.split('\n') ?? [];
      expect(heading).toBe(last[language]);
      // Each thing that goes wrong begins with what is seen of it.
      expect(words.join('\n').match(/^\*\*[^*]+\*\*/gm)?.length).toBeGreaterThan(2);
    }
  },
);

test('each page of the application has its page of the help', () => {
  expect(helpAt('/')).toBe('projects');
  expect(['brief', 'booth', 'finish', 'proof'].map((tab) => helpAt(`/project/3f-1/${tab}`))).toEqual([
    'brief',
    'booth',
    'finish',
    'proof',
  ]);
  expect(['/talent', '/help', '/project/3f-1/film'].map(helpAt)).toEqual([undefined, undefined, undefined]);
  expect(helpAddress('far')).toBe('/help#far');
  expect(helpAddress('far', true)).toBe('/help#far-wrong');
});
