import { say } from '@/texts/say';
import { wholeText, type Chapter, type ScriptDocument } from '@/core/script/document';
import { ask } from '../page/questions';
import { useProject } from '../project/openProject';
import { changePart } from '../project/settings';
import { linesOfText, saveScript } from '../project/scriptText';
import { usePart } from './part';
import { addFurtherPart } from './parts';

/**
 * What becomes of a script that was read: its text for the part, or null where its chapters have become parts
 * of their own, or it was called off.
 */
export async function takeScript(document: ScriptDocument, fileName: string): Promise<string | null> {
  const { chapters } = document;
  if (chapters.length < 2) return wholeText(document);
  const names = chapters.slice(0, mostNamed).map(({ name }, index) => name || say`(chapter ${index + 1})`);
  const more =
    chapters.length > mostNamed
      ? say`
and ${chapters.length - mostNamed} more`
      : '';
  const answer = await ask({
    title: say`“${fileName}” has ${chapters.length} chapters`,
    text: `${names.join('\n')}${more}`,
    choices: [
      { id: 'one', label: say`All in this part` },
      { id: 'each', label: say`A part for each` },
    ],
  });
  if (answer === 'one') return wholeText(document);
  return answer === 'each' ? addChapters(chapters) : null;
}

const mostNamed = 12;

/**
 * Adds a part for each chapter. Where the open part has neither script nor sound, the first chapter is for
 * it: its text is returned.
 */
async function addChapters(chapters: readonly Chapter[]): Promise<string | null> {
  const { parts } = useProject.getState();
  const open = parts.find(({ id }) => id === usePart.getState().id);
  const own = open && open.script.length === 0 && open.heardFrames === 0 ? open : null;
  const [first, ...rest] = chapters;
  if (own && first.name) changePart(own.id, { name: first.name });
  for (const { name, text } of own ? rest : chapters) {
    const id = await addFurtherPart(name, false);
    if (!id) break;
    saveScript(id, linesOfText(text).join('\n'));
  }
  return own ? first.text : null;
}
