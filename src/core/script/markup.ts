import { Parser } from 'htmlparser2';
import type { Chapter } from './document';

/** Elements that begin on a line of their own (HTML standard, rendering: block-level). */
const blocks = new Set([
  ...['p', 'div', 'section', 'article', 'header', 'footer', 'blockquote', 'li', 'ul', 'ol', 'tr', 'table'],
  ...['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'pre', 'figure', 'figcaption', 'dd', 'dt', 'hr'],
]);
/** What is in them is not read aloud. */
const silent = new Set(['script', 'style', 'head', 'title', 'nav', 'sup', 'template']);

/**
 * The text of HTML or XHTML as chapters, each from one heading of the highest level to the next; what stands
 * before the first is a chapter without a name. Markup that is broken gives what can be read of it.
 */
export function chaptersOfMarkup(markup: string, heading = 'h1'): Chapter[] {
  const chapters: Chapter[] = [{ name: '', text: '' }];
  let hidden = 0;
  let inHeading = false;
  const add = (text: string) => {
    const chapter = chapters[chapters.length - 1];
    if (inHeading) chapter.name += text;
    else chapter.text += text;
  };
  const breakLine = () => {
    const chapter = chapters[chapters.length - 1];
    if (!inHeading && !chapter.text.endsWith('\n\n')) chapter.text = `${chapter.text.trimEnd()}\n\n`;
  };
  const parser = new Parser({
    onopentag(name) {
      if (silent.has(name)) hidden++;
      if (hidden > 0) return;
      if (name === heading) {
        chapters.push({ name: '', text: '' });
        inHeading = true;
      } else if (blocks.has(name)) breakLine();
      else if (name === 'br') add(inHeading ? ' ' : '\n');
    },
    ontext(text) {
      if (hidden === 0) add(text.replace(/\s+/g, ' '));
    },
    onclosetag(name) {
      if (silent.has(name)) hidden = Math.max(0, hidden - 1);
      if (hidden > 0) return;
      if (name === heading) inHeading = false;
      else if (blocks.has(name)) breakLine();
    },
  });
  parser.end(markup);
  return chapters;
}

/** The first heading of any level, for a chapter that is a file of its own; empty where there is none. */
export function firstHeading(markup: string): string {
  let name = '';
  let depth = 0;
  let done = false;
  const parser = new Parser({
    onopentag: (tag) => void (/^h[1-6]$/.test(tag) && !done && depth++),
    ontext: (text) => void (depth > 0 && !done && (name += text)),
    onclosetag(tag) {
      if (!/^h[1-6]$/.test(tag) || depth === 0) return;
      depth--;
      done = name.trim() !== '';
    },
  });
  parser.end(markup);
  return name.replace(/\s+/g, ' ').trim();
}
