import { helpPages } from './helpPages';
import { helpIds } from '@/core/base/helpIds';

test('every page a message can point to is there, with a title and words', () => {
  const pages = helpPages();
  expect(pages.map(({ id }) => id)).toEqual([...helpIds]);
  for (const { title, text } of pages) {
    expect(title.length).toBeGreaterThan(3);
    expect(text.length).toBeGreaterThan(200);
    expect(text).not.toMatch(/^# /m);
  }
});
