import { escapeHtml } from '../base/text';
import { NameFinder, type SaidName } from './names';

const css = `
  body { font: 13pt/1.6 Georgia, serif; margin: 2cm; color: #1e2a36; }
  h1 { font-size: 17pt; margin: 0 0 2pt; }
  h2 { font-size: 14pt; margin: 18pt 0 6pt; break-after: avoid; }
  p { margin: 0 0 12pt; color: #555; font: 10pt sans-serif; }
  ol { list-style: none; margin: 0; padding: 0; }
  li { display: grid; grid-template-columns: 28pt 1fr; margin: 0 0 7pt; break-inside: avoid; }
  li span { font: 9pt/2.2 sans-serif; color: #777; font-variant-numeric: tabular-nums; }
  rt { font: italic 8pt sans-serif; color: #555; }
  dl { columns: 2; font-size: 11pt; }
  dt { font-weight: bold; }
  dd { margin: 0 0 4pt; }
  section { break-before: page; }
  section:first-of-type { break-before: auto; }
  @page { margin: 1.8cm; }
  @media print { body { margin: 0; } }
`;

/** A part as it is printed. */
export interface PrintedPart {
  readonly name: string;
  readonly lines: readonly { readonly text: string }[];
}

/**
 * Scripts as a page to print, with the numbers of the lines and how names are said above them: HTML that
 * needs nothing else. Parts without a script are left out.
 */
export function scriptPage(title: string, parts: readonly PrintedPart[], names: readonly SaidName[]): string {
  const finder = new NameFinder(names);
  const spoken = (text: string) =>
    finder
      .in(text)
      .map(({ text: words, say }) =>
        say ? `<ruby>${escapeHtml(words)}<rt>${escapeHtml(say)}</rt></ruby>` : escapeHtml(words),
      )
      .join('');
  const sections = parts
    .filter(({ lines }) => lines.length > 0)
    .map(({ name, lines }) => {
      const items = lines.map(
        ({ text }, index) => `<li><span>${index + 1}</span><div>${spoken(text)}</div></li>`,
      );
      return `<section><h2>${escapeHtml(name)}</h2><ol>\n${items.join('\n')}\n</ol></section>`;
    });
  const said = names.map(({ name, say }) => `<dt>${escapeHtml(name)}</dt><dd>${escapeHtml(say)}</dd>`);
  const list = said.length > 0 ? `<dl>${said.join('')}</dl>` : '';
  return `<!doctype html>
<html><head><meta charset="utf-8"><title>${escapeHtml(title)}</title><style>${css}</style></head><body>
<h1>${escapeHtml(title)}</h1>
${list}
${sections.join('\n')}
</body></html>
`;
}
