import { say } from '@/texts/say';
import { lineStates } from '@/core/timeline/scriptLines';
import type { Range } from '@/core/timeline/range';
import { allCuts } from '@/core/timeline/joints';
import { markTraits } from '@/core/timeline/markTraits';
import { clockOf } from '@/core/timeline/timeline';
import { openProposals } from '../finds/finding';
import { goToProposal } from '../finds/proposals';
import { notify } from '../page/notices';
import { openPartRecord, select, setCaret, usePart } from '../sheet/part';
import { goToLine } from './script';

/** Something that is still to be done in the open part. */
interface Thing extends Range {
  what: string;
  go: () => void;
}

function toDo(): Thing[] {
  const { timeline } = usePart.getState();
  const part = openPartRecord();
  const clock = clockOf(timeline);
  const proposals = openProposals().map((item): Thing => ({
    ...item.range,
    what: item.proposal.reason,
    go: () => goToProposal(item),
  }));
  const marks = timeline.marks.flatMap(({ kind, at, length, name }): Thing[] => {
    const range = { from: at, to: at + length };
    if (!markTraits[kind].toDo || (length > 0 && clock.isAllStruck(range))) return [];
    return [{ ...range, what: name, go: () => goTo(range) }];
  });
  const script = part?.script ?? [];
  const lines = [...lineStates(timeline, script)].flatMap(([line, { state, readings }]): Thing[] => {
    const index = script.findIndex((one) => one.id === line);
    if (state === 'twice' || state === 'stale')
      return [
        {
          ...readings[0],
          what:
            state === 'stale'
              ? say`The text of line ${index + 1} was changed after it was read`
              : say`Line ${index + 1} is read ${readings.length} times`,
          go: () => {
            goToLine(index);
            select(readings[0].from, readings[0].to);
            setCaret(readings[0].from);
          },
        },
      ];
    return [];
  });
  return [...proposals, ...marks, ...lines].sort((a, b) => a.from - b.from);
}

/** Lines nobody has read, once any line has a place; they have none on the sheet, so they come last. */
function unreadLines(): number[] {
  const { timeline } = usePart.getState();
  const script = openPartRecord()?.script ?? [];
  const states = lineStates(timeline, script);
  const some = [...states.values()].some(({ state }) => state !== 'unread');
  return some
    ? script.flatMap((line, index) => (states.get(line.id)?.state === 'unread' ? [index] : []))
    : [];
}

function goTo({ from, to }: Range) {
  select(from, to);
  setCaret(from);
}

/**
 * Walks to the next thing to do after the caret, then to lines that are not read, then from the start again.
 */
export function nextThing(): void {
  const { caret } = usePart.getState();
  const things = toDo();
  const unread = unreadLines();
  const thing = things.find(({ from }) => from > caret);
  if (thing) {
    thing.go();
    notify('info', thing.what);
    return;
  }
  if (unread.length > 0) {
    goToLine(unread[0]);
    return notify('info', say`Line ${unread.map((index) => index + 1).join(', ')}: not read yet.`);
  }
  if (things.length === 0) return notify('success', say`Nothing is left to do in this part.`);
  things[0].go();
  notify('info', things[0].what);
}

// — Walking from one to the next —

function step(places: readonly number[], direction: -1 | 1, nothing: string) {
  const { caret } = usePart.getState();
  const sorted = [...places].sort((a, b) => a - b);
  const found =
    direction > 0 ? sorted.find((place) => place > caret) : sorted.filter((place) => place < caret).pop();
  if (found === undefined) notify('info', nothing);
  else setCaret(found);
}

const further = (direction: -1 | 1) => (direction > 0 ? say`after` : say`before`);

export const stepToMark = (direction: -1 | 1) =>
  step(
    usePart
      .getState()
      .timeline.marks.filter(({ kind }) => markTraits[kind].listed)
      .map(({ at }) => at),
    direction,
    say`There is no mark ${further(direction)} the caret.`,
  );

/**
 * To what the recorder or the search found wrong: clipped and faint passages, clicks, passages off the level.
 */
export const stepToFault = (direction: -1 | 1) =>
  step(
    [
      ...usePart
        .getState()
        .timeline.marks.filter(({ kind }) => markTraits[kind].fault)
        .map(({ at }) => at),
      ...openProposals()
        .filter(({ proposal: { kind } }) => kind === 'click' || kind === 'level' || kind === 'clipped')
        .map(({ range }) => range.from),
    ],
    direction,
    say`There is no fault ${further(direction)} the caret.`,
  );

export const stepToJoin = (direction: -1 | 1) =>
  step(
    allCuts(usePart.getState().timeline).map(({ to }) => to),
    direction,
    say`There is no join ${further(direction)} the caret.`,
  );
