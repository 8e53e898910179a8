import { matching } from './helpSearch';

const pages = [
  { title: 'Booth', text: 'Backspace goes back to the **start of the sentence**.' },
  { title: 'Proof', text: 'A café, measured.' },
];

test.each([
  ['', ['Booth', 'Proof']],
  ['BOOTH', ['Booth']],
  ['sentence start', ['Booth']],
  ['sentence café', []],
  ['cafe', ['Proof']],
])('“%s” finds %j', (query, titles) => {
  expect(matching(pages, query).map(({ title }) => title)).toEqual(titles);
});
