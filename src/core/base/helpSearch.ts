export interface Searchable {
  title: string;
  text: string;
}

const plain = (text: string) => text.toLowerCase().normalize('NFKD').replace(/\p{M}/gu, '');

/** Pages that have every word that is looked for, in their title or text; all of them where nothing is. */
export function matching<Page extends Searchable>(pages: readonly Page[], query: string): Page[] {
  const words = plain(query).split(/\s+/).filter(Boolean);
  return pages.filter(({ title, text }) => {
    const all = plain(`${title}\n${text}`);
    return words.every((word) => all.includes(word));
  });
}
