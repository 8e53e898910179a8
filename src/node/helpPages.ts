import { readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';
import type { Language } from '@/texts/say';

/** A page of the help, as it stands in the folder `help` of the repository. */
export interface HelpPage {
  /** The name of its file without number and ending: what addresses and messages call it. */
  id: string;
  title: string;
  /** Markdown, without the title. */
  text: string;
}

const help = path.join(process.cwd(), 'help');

/** All pages in each language, in the order of their files' numbers. */
export const helpInLanguages = (): Record<Language, HelpPage[]> => ({
  en: helpPages(help),
  de: helpPages(path.join(help, 'de')),
});

export function helpPages(folder = help): HelpPage[] {
  return readdirSync(folder)
    .filter((name) => /^\d+-[\w-]+\.md$/.test(name))
    .sort((a, b) => parseInt(a, 10) - parseInt(b, 10))
    .map((name) => {
      const [first, ...rest] = readFileSync(path.join(folder, name), 'utf8').split('\n');
      return {
        id: name.replace(/^\d+-|\.md$/g, ''),
        title: first.replace(/^# */, ''),
        text: rest.join('\n').trim(),
      };
    });
}
