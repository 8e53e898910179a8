import { median } from '../base/statistics';

/** A run of text on a page of a PDF: where it stands, in points from the lower left corner. */
export interface PdfRun {
  text: string;
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface PdfPage {
  height: number;
  runs: readonly PdfRun[];
}

interface Line {
  text: string;
  x: number;
  y: number;
  end: number;
  height: number;
}

/** Runs whose base lines differ by less than this share of their height stand on one line. */
const sameLine = 0.4;
/** A gap as wide as this share of the height is a space. */
const spaceWidth = 0.18;
/** Lines further apart than so many times the usual distance are paragraphs of their own. */
const paragraphGap = 1.35;
/** A line that begins so many heights further right than its column begins a paragraph. */
const indent = 0.8;
/** What stands within this share of a page's edge can be a running head or a page's number. */
const margin = 0.09;

function linesOf({ runs }: PdfPage): Line[] {
  const lines: Line[] = [];
  const ordered = runs.filter(({ text }) => text.trim() !== '');
  for (const { text, x, y, width, height } of ordered) {
    const last = lines.at(-1);
    if (last && Math.abs(last.y - y) < sameLine * Math.max(height, last.height) && x >= last.x) {
      const gap = x - last.end > spaceWidth * height && !last.text.endsWith(' ') && !text.startsWith(' ');
      last.text += gap ? ` ${text}` : text;
      last.end = x + width;
      last.height = Math.max(last.height, height);
    } else lines.push({ text, x, y, end: x + width, height });
  }
  return lines.map((line) => ({ ...line, text: line.text.replace(/\s+/g, ' ').trim() }));
}

/** Of a running head or a number, what is the same on every page: digits apart. */
const pattern = (text: string) => text.replace(/\d+/g, '#');

/** Heads and feet that come on several pages, and numbers alone. */
function runningTexts(pages: readonly PdfPage[], lines: readonly Line[][]): Set<string> {
  const counts = new Map<string, number>();
  for (const [index, page] of pages.entries())
    for (const { text, y } of lines[index])
      if (isAtEdge(y, page)) counts.set(pattern(text), (counts.get(pattern(text)) ?? 0) + 1);
  return new Set(
    [...counts].filter(([text, count]) => count > 1 || /^\W*#\W*$/.test(text)).map(([text]) => text),
  );
}

const isAtEdge = (y: number, { height }: PdfPage) => y < margin * height || y > (1 - margin) * height;

/**
 * The text of a PDF's pages as paragraphs: lines are put together where they belong to one, words that were
 * divided at the end of a line are whole again, running heads and page numbers are left out. What a PDF does
 * not say is guessed: it knows places of letters, not paragraphs.
 */
export function textOfPages(pages: readonly PdfPage[]): string {
  const lines = pages.map(linesOf);
  const running = runningTexts(pages, lines);
  const body = lines.flatMap((own, index) =>
    own.filter(({ text, y }) => !(isAtEdge(y, pages[index]) && running.has(pattern(text)))),
  );
  const distances = body.slice(1).flatMap((line, i) => (body[i].y > line.y ? [body[i].y - line.y] : []));
  const usual = median(distances);
  const left = median(body.map(({ x }) => x));
  let text = '';
  for (const [index, line] of body.entries()) {
    const before = body[index - 1];
    if (!before) text = line.text;
    else if (isDivided(text, line.text)) text = text.slice(0, -1) + line.text;
    else if (/\p{L}-$/u.test(text) && /^\p{L}/u.test(line.text)) text += line.text;
    else text += (beginsParagraph(before, line, usual, left) ? '\n\n' : ' ') + line.text;
  }
  return text;
}

/** A word that goes on in the next line; a hyphen before a capital letter belongs there. */
const isDivided = (text: string, next: string) => /\p{L}[-\u00AD]$/u.test(text) && /^\p{Ll}/u.test(next);

function beginsParagraph(before: Line, line: Line, usual: number, left: number): boolean {
  const distance = before.y - line.y;
  const onNextPage = distance <= 0;
  if (Math.abs(line.height - before.height) > 0.15 * before.height) return true;
  if (line.x - left > indent * line.height && line.x - before.x > indent * line.height) return true;
  return onNextPage ? /[.!?…:”"’)]$/.test(before.text) : distance > paragraphGap * usual;
}
