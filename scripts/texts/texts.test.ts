import { readFileSync, readdirSync } from 'node:fs';
import german from '@/texts/de.json';
import english from '@/texts/en.json';
import { languageOf } from '@/texts/say';
import { textsOfCode } from './extract';

const texts = [...new Set(Object.values(english).flat())];
const said = german as Record<string, string>;

/** What stands in a text for something else: values, keys of commands, fields of names. */
const placesOf = (text: string) =>
  [...text.matchAll(/\{\d\}|\$\{path\}|\{key:\w+\}|\{n{1,2}\}|\{mod\}|\{project\}|\{part\}/g)]
    .map(([place]) => place)
    .sort();

describe('texts of the interface', () => {
  it('are listed as they stand in the code: npm run texts', () => {
    expect(english).toEqual(textsOfCode('.'));
    expect(texts.length).toBeGreaterThan(2000);
  });

  it('are all said in German, and nothing else is', () => {
    expect(texts.filter((text) => !said[text])).toEqual([]);
    expect(Object.keys(said).filter((text) => !texts.includes(text))).toEqual([]);
  });

  it('have the same places in each language, and end their sentences', () => {
    const ends = /[.?!…]$/;
    for (const text of texts) {
      expect([text, placesOf(said[text])]).toEqual([text, placesOf(text)]);
      // A whole sentence stays one; what is half of one may end otherwise.
      if (/^[A-Z“].* .*\.$/.test(text)) expect([text, ends.test(said[text])]).toEqual([text, true]);
    }
  });

  it('have a page of help in each language for every page of the other', () => {
    const pages = (folder: string) => readdirSync(folder).filter((name) => name.endsWith('.md'));
    expect(pages('help/de')).toEqual(pages('help'));
    for (const page of pages('help')) {
      const [own, other] = ['help', 'help/de'].map((folder) => readFileSync(`${folder}/${page}`, 'utf8'));
      expect([page, other.match(/^##? /gm)?.length]).toEqual([page, own.match(/^##? /gm)?.length]);
    }
  });
});

describe('the language that is spoken', () => {
  const page = (chosen: string | null, preferred: string) => ({
    document: {},
    localStorage: { getItem: () => chosen },
    navigator: { language: preferred },
  });

  it('is the one that was chosen, else the one the browser prefers, else English', () => {
    expect(languageOf(page('de', 'en-GB'))).toBe('de');
    expect(languageOf(page('en', 'de-AT'))).toBe('en');
    expect(languageOf(page(null, 'de-AT'))).toBe('de');
    expect(languageOf(page('tlh', 'fr'))).toBe('en');
  });

  it('is that of its page in a worker, and English on a server', () => {
    expect(languageOf({ name: 'de' })).toBe('de');
    expect(languageOf({ name: '', navigator: { language: 'de' } })).toBe('en');
    expect(languageOf({ navigator: { language: 'de' } })).toBe('en');
  });

  it('is known where nothing may be kept', () => {
    const localStorage = {
      getItem: () => {
        throw new Error('Access is denied for this document.');
      },
    };
    expect(languageOf({ document: {}, localStorage, navigator: { language: 'de' } })).toBe('de');
  });
});
