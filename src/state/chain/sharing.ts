import { say } from '@/texts/say';
import { changeChain } from '@/core/timeline/mixEdits';
import { loadTimeline } from '@/core/timeline/stored';
import { whenProjectCloses } from '../page/resets';
import { notify } from '../page/notices';
import { partRecord, useProject } from '../project/openProject';
import { editPart, lastStepOf, takeBack, timelineOfPart, undo, usePart, type MadeStep } from '../sheet/part';
import { chainOf } from './chains';

/** A voice of a part. */
export interface OtherVoice {
  readonly partId: string;
  readonly voice: string;
}

/** Every voice of the project but one, with the names people know them by. */
export function otherVoices(
  than: OtherVoice,
): (OtherVoice & { readonly part: string; readonly name: string })[] {
  return useProject.getState().parts.flatMap(({ id: partId, name: part }) => {
    const record = partRecord(partId);
    const timeline = timelineOfPart(partId) ?? (record && loadTimeline(record.timeline));
    return (timeline?.tracks ?? [])
      .filter(({ id, side }) => side !== 'right' && !(partId === than.partId && id === than.voice))
      .map(({ id, name }) => ({ partId, voice: id, part, name }));
  });
}

/** What the last sharing did, and how far the open part was then: undo takes all of it back at once. */
let shared: { steps: readonly MadeStep[]; openPart: string | null; openAt: number } | null = null;
whenProjectCloses(() => (shared = null));

/** Gives other voices the chain of one: a step in each part, which one undo takes back in all of them. */
export function shareChain(from: OtherVoice, to: readonly OtherVoice[]): void {
  const timeline = timelineOfPart(from.partId) ?? usePart.getState().timeline;
  const chain = chainOf(timeline, from.voice);
  const label = chain.name ? say`chain “${chain.name}”` : say`chain of another voice`;
  const parts = [...new Set(to.map(({ partId }) => partId))];
  const steps = parts.flatMap((partId) => {
    const voices = to.filter((one) => one.partId === partId);
    const done = editPart(partId, label, (before) =>
      voices.reduce((result, { voice }) => changeChain(result, voice, chain), before),
    );
    const step = done ? lastStepOf(partId) : null;
    return step ? [step] : [];
  });
  const { id, historyAt } = usePart.getState();
  shared = steps.length > 0 ? { steps, openPart: id, openAt: historyAt } : null;
  notify(
    steps.length > 0 ? 'success' : 'info',
    steps.length > 0
      ? say`${to.length === 1 ? say`One more voice has` : say`${to.length} more voices have`} this chain now. Undo takes it back everywhere.`
      : say`They have this chain already.`,
  );
}

/** Undoes the last step; one that gave several parts a chain is taken back in all of them. */
export async function undoLast(): Promise<void> {
  const { id, historyAt } = usePart.getState();
  const last = shared;
  if (last && last.openPart === id && last.openAt === historyAt) {
    shared = null;
    const done = await Promise.all(last.steps.map((step) => takeBack(step).catch(() => false)));
    const kept = done.filter((one) => !one).length;
    return notify(
      kept > 0 ? 'warning' : 'info',
      kept > 0
        ? say`${kept === 1 ? say`One part was` : say`${kept} parts were`} edited since, or cannot be read now: open it, and undo its chain there.`
        : say`The chain was taken back everywhere.`,
      kept > 0 ? 'finish' : undefined,
    );
  }
  shared = null;
  return undo();
}
