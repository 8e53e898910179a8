import { say } from '@/texts/say';
import { alignLines } from '@/core/speech/lineAlignment';
import { sentencesOf } from '@/core/speech/sentences';
import { defaultFindingOptions } from '@/core/speech/findings';
import { changeMark } from '@/core/timeline/edits';
import * as scriptLines from '@/core/timeline/scriptLines';
import { clockOf } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import { runShown } from '../page/jobs';
import { lookThrough } from '../finds/lookThrough';
import { notify } from '../page/notices';
import { edit, openPartRecord, setCaret, usePart } from '../sheet/part';
import { changePart } from '../project/settings';
import { rateOfProject, type ScriptLine } from '../project/openProject';
import { headFrame, useTransport } from '../hearing/transport';

/** Presses of the follow key this close to each other mean the same reading. */
const sameReadingSeconds = 0.7;

const openScript = (): readonly ScriptLine[] => openPartRecord()?.script ?? [];

/** While recording: the line that is read from here on. Anywhere else nothing. */
export function followLine(index: number): void {
  const { mode, live } = useTransport.getState();
  const line = openScript()[index];
  const head = headFrame();
  if (mode !== 'recording' || !live || !line || head === null) return;
  markLine(line.id, head);
}

/** A take has begun: with it the current line of the script, where there is one. */
export function beginLine(startFrame: number): void {
  const part = openPartRecord();
  const line = part?.script[part.currentLine];
  if (line) markLine(line.id, startFrame);
}

/** Says that a line is read from a sheet frame on, as its text is now. */
export function markLine(lineId: string, at: number): void {
  standAsRead(lineId);
  const id = newId();
  useTransport.getState().live?.markIds.add(id);
  edit('line', (timeline) =>
    scriptLines.placeLine(timeline, lineId, at, sameReadingSeconds * rateOfProject(), id),
  );
}

/** What was read of a line is right, though its text was changed after it. */
export function standAsRead(lineId: string): void {
  const part = openPartRecord();
  if (!part?.script.some(({ id, was }) => id === lineId && was !== undefined)) return;
  changePart(part.id, {
    script: part.script.map((line) => (line.id === lineId ? { id: line.id, text: line.text } : line)),
  });
}

/** The current line of the script is read from the caret on. */
export function currentLineFromCaret(): void {
  const { caret } = usePart.getState();
  const part = openPartRecord();
  const line = part?.script[part.currentLine];
  if (line) markLine(line.id, caret);
}

/** Moves a line's mark, when it was dragged. */
export const moveLineMark = (markId: string, at: number) =>
  edit(say`move line`, (timeline) => changeMark(timeline, markId, { at }));

/** To where a line was read: its first reading that is heard. False when it was not read. */
export function goToReading(lineId: string): boolean {
  const { timeline } = usePart.getState();
  const [reading] = scriptLines.lineStates(timeline, [{ id: lineId }]).get(lineId)?.readings ?? [];
  if (!reading) return false;
  const clock = clockOf(timeline);
  setCaret(clock.heardToSheet(clock.sheetToHeard(reading.from)));
  return true;
}

/**
 * Lays the whole script along what is heard, by order and pauses; what was laid before is replaced. One step
 * that can be undone.
 */
export async function layScript(): Promise<void> {
  const { id, timeline } = usePart.getState();
  const script = openScript();
  if (script.length === 0) return notify('info', say`This part has no script yet. Paste it in the Brief.`);
  const found = await runShown(say`Laying the script along the reading`, (options) =>
    lookThrough(timeline, { ...defaultFindingOptions, kinds: ['restart', 'readTwice'] }, options),
  );
  const now = usePart.getState();
  if (!found || now.id !== id || now.timeline !== timeline) return;
  const findings = found.tracks.flatMap((track) => track.findings);
  const clock = clockOf(timeline);
  // What is going to be struck belongs to no line.
  const kept = found.speech.filter(({ from }) => !findings.some((one) => from >= one.from && from < one.to));
  const sentences = sentencesOf(kept, rateOfProject());
  const aligned = alignLines(
    script.map(({ text }) => text.length),
    sentences,
  );
  if (aligned.length === 0) return notify('info', say`No speech was found to lay the script along.`);
  edit(say`lay the script`, (before) =>
    aligned.reduce(
      (result, { line, first }) =>
        scriptLines.placeLine(
          result,
          script[line].id,
          clock.heardToSheet(sentences[first].punch),
          0,
          newId(),
        ),
      scriptLines.clearLines(before),
    ),
  );
  const missing = script.length - aligned.length;
  notify(
    'success',
    missing === 0
      ? say`All ${script.length} lines are laid along the reading. Drag a line’s number where it is not right.`
      : say`${aligned.length} of ${script.length} lines are laid along the reading; ${missing} seem not to be read. Drag a line’s number where it is not right.`,
  );
}
