import removeMarkdown from 'remove-markdown';
import { ParolaError } from '@/core/base/errors';
import { formatBytes } from '@/core/base/units';
import { splitIntoLines } from '@/core/base/text';
import { newId } from '@/storage/projects';
import { changePart, withKeptIds } from './settings';
import { useProject } from './openProject';

/** A part's script; a whole book is several parts. A megabyte of text is about twenty hours of reading. */
export const longestScriptBytes = 1_000_000;

/** Throws ParolaError `too-large` with what to do. */
export function checkScriptSize(bytes: number): void {
  if (bytes <= longestScriptBytes) return;
  throw new ParolaError(
    'too-large',
    `This script is ${formatBytes(bytes)}; one part takes at most ${formatBytes(longestScriptBytes)}, about twenty hours of reading. Put each chapter into a part of its own.`,
  );
}

/**
 * The text of a dropped .txt or .md file as script lines. Throws ParolaError `too-large` or `unsupported`.
 */
export async function readScriptFile(file: File): Promise<string[]> {
  checkScriptSize(file.size);
  const markdown = /\.(md|markdown)$/i.test(file.name);
  if (!markdown && !/\.(txt|text)$/i.test(file.name)) {
    throw new ParolaError(
      'unsupported',
      `“${file.name}” is not a .txt or .md file. Save the script as plain text, or paste it.`,
    );
  }
  const text = await file.text();
  if (text.includes('\u0000'))
    throw new ParolaError(
      'unsupported',
      `“${file.name}” is not plain text. Save the script as plain text, or paste it.`,
    );
  return splitIntoLines(markdown ? removeMarkdown(text) : text);
}

/** Stores a script, one line of text for each script line; empty lines are dropped. */
export function saveScript(partId: string, text: string): void {
  const part = useProject.getState().parts.find((candidate) => candidate.id === partId);
  if (!part) return;
  const texts = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean);
  const script = withKeptIds(part.script, texts, newId);
  const same =
    script.length === part.script.length && script.every((line, i) => line.text === part.script[i].text);
  if (same) return;
  changePart(partId, { script, currentLine: Math.min(part.currentLine, Math.max(0, script.length - 1)) });
}
