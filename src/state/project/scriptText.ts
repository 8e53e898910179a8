import { language, say } from '@/texts/say';
import removeMarkdown from 'remove-markdown';
import { ParolaError } from '@/core/base/errors';
import { formatBytes } from '@/core/base/units';
import { splitScript, type SplitRule } from '@/core/base/text';
import { readCaptions } from '@/core/cues/captions';
import { namesText, parseNames } from '@/core/script/names';
import { reviseScript } from '@/core/script/revision';
import { scriptPage } from '@/core/script/scriptPage';
import { safeName } from '@/core/formats/fileNames';
import { loadTimeline } from '@/core/timeline/stored';
import { tidied, type Chapter, type ScriptDocument } from '@/core/script/document';
import { JobClient } from '@/workers/client';
import type { ScriptJobs } from '@/workers/scriptJobs';
import { newId } from '@/storage/projects';
import { changePart, changeProject } from './settings';
import { handOverText } from '../page/jobs';
import { useProject, type PartRecord } from './openProject';

/** A part's script; a whole book is several parts. A megabyte of text is about twenty hours of reading. */
export const longestScriptBytes = 1_000_000;

/** A book with pictures; its text is a fraction of it. */
const longestFileBytes = 100_000_000;

const client = new JobClient<ScriptJobs>(
  () =>
    new Worker(new URL('../../workers/script.worker.ts', import.meta.url), {
      type: 'module',
      name: language,
    }),
);

/** Throws ParolaError `too-large` with what to do. */
export function checkScriptSize(bytes: number): void {
  if (bytes <= longestScriptBytes) return;
  throw new ParolaError(
    'too-large',
    say`This script is ${formatBytes(bytes)}; one part takes at most ${formatBytes(longestScriptBytes)}, about twenty hours of reading. Put each chapter into a part of its own.`,
  );
}

/** Files a script is read from, by their endings. */
export const scriptEndings = '.txt,.text,.md,.markdown,.docx,.epub,.pdf,.rtf,.srt,.vtt';

/**
 * The text of a file in any of the usual forms, in chapters where it has some. Throws ParolaError `too-
 * large`, `unsupported` or `damaged-file`.
 */
export async function readScriptFile(file: File): Promise<ScriptDocument> {
  const kind = /\.(\w+)$/.exec(file.name)?.[1].toLowerCase() ?? '';
  if (file.size > longestFileBytes)
    throw new ParolaError(
      'too-large',
      say`“${file.name}” is ${formatBytes(file.size)}; a script file has at most ${formatBytes(longestFileBytes)}. Leave its pictures out, or paste its text.`,
    );
  switch (kind) {
    case 'docx':
    case 'epub':
    case 'pdf':
      return client.run('read', { file, kind });
    case 'rtf':
      return readRtf(file);
    case 'srt':
    case 'vtt': {
      const { cues } = readCaptions(await plainText(file), 1000);
      return tidied([{ name: '', text: cues.map(({ text }) => text).join('\n\n') }]);
    }
    case 'md':
    case 'markdown':
      return tidied(chaptersOfMarkdown(await plainText(file)));
    case 'txt':
    case 'text':
      return tidied([{ name: '', text: await plainText(file) }]);
    default:
      throw new ParolaError(
        'unsupported',
        say`“${file.name}” is none of the forms a script is read from: plain text, Markdown, DOCX, EPUB, PDF, RTF, SRT or VTT. Save it as one of them, or paste its text.`,
      );
  }
}

async function plainText(file: File): Promise<string> {
  const text = await file.text();
  if (text.includes('\u0000'))
    throw new ParolaError(
      'unsupported',
      say`“${file.name}” is not plain text. Save the script as plain text, or paste it.`,
    );
  return text.replace(/^\uFEFF/, '');
}

/** Chapters of Markdown begin at headings of the first level (CommonMark, ATX headings). */
function chaptersOfMarkdown(text: string): Chapter[] {
  const [before, ...headed] = text.replace(/\r\n?/g, '\n').split(/^# +(?=\S)/m);
  return [
    { name: '', text: removeMarkdown(before) },
    ...headed.map((chapter) => {
      const [name, ...rest] = chapter.split('\n');
      return { name: removeMarkdown(name.replace(/ #+ *$/, '')), text: removeMarkdown(rest.join('\n')) };
    }),
  ];
}

/** RTF is laid out by its library as a page would show it; what is read is the text of that. */
async function readRtf(file: File): Promise<ScriptDocument> {
  try {
    const { RTFJS } = await import('rtf.js');
    RTFJS.loggingEnabled(false);
    const elements = await new RTFJS.Document(await file.arrayBuffer(), {}).render();
    const text = elements.map(({ textContent }) => textContent ?? '').join('\n\n');
    const document = tidied([{ name: '', text }]);
    if (document.chapters.length > 0) return document;
  } catch {
    // Told below, as for a file without text.
  }
  throw new ParolaError(
    'damaged-file',
    say`“${file.name}” cannot be read as RTF. Open it where it was made and save it again, or paste its text.`,
  );
}

/** A file's text as script lines of the open project. */
export const linesOfText = (text: string): string[] => splitScript(text, splitRule());

/** How a text becomes lines in the open project. */
export const splitRule = (): SplitRule => useProject.getState().project?.split ?? 'sentences';

export const setSplitRule = (split: SplitRule) => changeProject({ split });

const readLines = ({ timeline }: PartRecord): ReadonlySet<string> =>
  new Set(loadTimeline(timeline).marks.flatMap(({ line }) => (line ? [line] : [])));

/** Keeps how names are said with the project, from a text with a line for each. Throws ParolaError. */
export function saveNames(text: string): void {
  const names = parseNames(text);
  const { project } = useProject.getState();
  if (project && namesText(names) !== namesText(project.names ?? [])) changeProject({ names });
}

/** Hands over the scripts of these parts as a page to print. */
export function saveScriptPage(parts: readonly PartRecord[]): void {
  const { project } = useProject.getState();
  if (!project) return;
  const printed = parts.map(({ name, script }) => ({ name, lines: script }));
  const [only] = parts;
  const name = parts.length === 1 && only ? `${project.name} ${only.name}` : project.name;
  handOverText(`${safeName(name)} script.html`, scriptPage(project.name, printed, project.names ?? []));
}

/** Stores a script, one line of text for each script line; empty lines are dropped. */
export function saveScript(partId: string, text: string): void {
  const part = useProject.getState().parts.find((candidate) => candidate.id === partId);
  if (!part) return;
  const texts = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean);
  const read = readLines(part);
  // Of a line that was not read it does not matter what it said before.
  const script = reviseScript(part.script, texts, newId).map((line) =>
    line.was === undefined || read.has(line.id) ? line : { id: line.id, text: line.text },
  );
  const same =
    script.length === part.script.length && script.every((line, i) => line.text === part.script[i].text);
  if (same) return;
  changePart(partId, { script, currentLine: Math.min(part.currentLine, Math.max(0, script.length - 1)) });
}
