import { language, say } from '../../texts/say';
import { escapeHtml } from '../base/text';
import type { CueState } from '../timeline/cueState';
import type { CueSheet } from '../timeline/cues';
import { timecodeAt } from './cueCsv';

const css = `
  body { font: 12pt/1.4 Georgia, serif; margin: 2cm; color: #1e2a36; }
  h1 { font-size: 17pt; margin: 0 0 2pt; }
  p { margin: 0 0 12pt; color: #555; font: 10pt sans-serif; }
  table { border-collapse: collapse; width: 100%; }
  th { text-align: left; font: 600 9pt sans-serif; border-bottom: 1pt solid #333; padding: 2pt 8pt 2pt 0; }
  td { vertical-align: top; border-bottom: 0.5pt solid #ccc; padding: 4pt 8pt 4pt 0; }
  td.time, td.number { font: 10pt sans-serif; white-space: nowrap; font-variant-numeric: tabular-nums; }
  td.note { font: italic 10pt Georgia, serif; color: #555; }
  td.box { width: 12pt; }
  td.box span { display: inline-block; width: 9pt; height: 9pt; border: 0.8pt solid #333; text-align: center; line-height: 9pt; }
  tr { break-inside: avoid; }
  thead { display: table-header-group; }
  @page { margin: 1.5cm; }
  @media print { body { margin: 0; } }
`;

const isDone = (state: CueState | undefined) => (state === 'done' ? '✓' : '');

/** A cue sheet as a page to print, with a box for each cue: HTML that needs nothing else. */
export function cuePage(
  title: string,
  sheet: CueSheet,
  states: ReadonlyMap<string, CueState>,
  rateHz: number,
): string {
  const names = new Map(sheet.characters.map(({ id, name }) => [id, name]));
  const rows = sheet.cues.map((cue) => {
    const times = [cue.from, cue.to].map((frame) => timecodeAt(frame, sheet, rateHz));
    const cells = [
      `<td class="box"><span>${isDone(states.get(cue.id))}</span></td>`,
      `<td class="number">${escapeHtml(cue.number)}</td>`,
      `<td class="time">${times.join('<br>')}</td>`,
      `<td>${escapeHtml(names.get(cue.character ?? '') ?? '')}</td>`,
      `<td>${escapeHtml(cue.text)}</td>`,
      `<td class="note">${escapeHtml(cue.note)}</td>`,
    ];
    return `<tr>${cells.join('')}</tr>`;
  });
  const head = ['', say`No.`, say`In, out`, say`Character`, say`Text`, say`Note`]
    .map((name) => `<th>${name}</th>`)
    .join('');
  return `<!doctype html>
<html lang="${language}"><head><meta charset="utf-8"><title>${escapeHtml(title)}</title><style>${css}</style></head><body>
<h1>${escapeHtml(title)}</h1>
<p>${say`${sheet.cues.length} cues, timecode at ${sheet.rate} pictures a second`}</p>
<table><thead><tr>${head}</tr></thead><tbody>
${rows.join('\n')}
</tbody></table></body></html>
`;
}
