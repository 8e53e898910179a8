/** Markdown and line breaks are handled by the caller; this only finds the ends of sentences. */
const segmenters = new Map<string, Intl.Segmenter>();

/**
 * Splits text into script lines: paragraphs first, then sentence ends (Unicode UAX #29 as implemented by
 * `Intl.Segmenter`). White space inside a line is folded; empty lines are dropped.
 */
export function splitIntoLines(text: string, language = 'en'): string[] {
  let segmenter = segmenters.get(language);
  if (!segmenter)
    segmenters.set(language, (segmenter = new Intl.Segmenter(language, { granularity: 'sentence' })));
  const lines: string[] = [];
  for (const paragraph of text.replace(/\r\n?/g, '\n').split(/\n+/)) {
    for (const { segment } of segmenter.segment(paragraph)) {
      const line = segment.replace(/\s+/g, ' ').trim();
      if (line) lines.push(line);
    }
  }
  return joinAbbreviations(lines);
}

/** How a text becomes lines: at the ends of sentences, at its own ends of lines, or at blank lines. */
export const splitRules = ['sentences', 'lines', 'paragraphs'] as const;
export type SplitRule = (typeof splitRules)[number];

/**
 * Splits a text into script lines by a rule. White space inside a line is folded; empty lines are dropped.
 */
export function splitScript(text: string, rule: SplitRule, language?: string): string[] {
  if (rule === 'sentences') return splitIntoLines(text, language);
  const plain = text.replace(/\r\n?/g, '\n');
  return plain
    .split(rule === 'lines' ? /\n/ : /\n[^\S\n]*\n/)
    .map((line) => line.replace(/\s+/g, ' ').trim())
    .filter(Boolean);
}

const abbreviation = /(?:^|\s)(?:Mr|Mrs|Ms|Dr|St|Prof|Capt|No|vs|etc|e\.g|i\.e)\.$/;

/** UAX #29 breaks after “Mr. ” before a capital; a reader does not. */
function joinAbbreviations(lines: string[]): string[] {
  const joined: string[] = [];
  for (const line of lines) {
    const last = joined.length - 1;
    if (last >= 0 && abbreviation.test(joined[last])) joined[last] += ` ${line}`;
    else joined.push(line);
  }
  return joined;
}

/** Text as it stands in HTML, also between the quotes of an attribute. */
export const escapeHtml = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
