import { say } from '@/texts/say';
import { movedPoint, withoutPoint, withPoint } from '@/core/timeline/ducking';
import { levelAt, type LevelPoint } from '@/core/timeline/levelPoints';
import { stripLimits } from '@/core/timeline/mix';
import { stripOf } from '@/core/timeline/mixEdits';
import { clamp } from '@/core/base/units';
import { notify } from '../page/notices';
import { setCaret, usePart } from '../sheet/part';
import { chosenStrip, draftStrip, setStrip } from './strips';

const bounded = (db: number) => clamp(db, stripLimits.lowestDb, stripLimits.highestDb);

/** Sets a point of the chosen strip at the caret, with the level that is there. */
export const setPointAtCaret = () => setPointAt(chosenStrip().id, usePart.getState().caret);

/** Sets a point of a strip at a frame, with the level that is there. */
export function setPointAt(id: string, at: number): void {
  const { points } = stripOf(usePart.getState().timeline, id);
  setStrip(id, { points: withPoint(points, at, levelAt(points, at)) });
}

/** The point nearest to the caret; −1 where there is none. */
export function pointAtCaret(points: readonly LevelPoint[], caret = usePart.getState().caret): number {
  let nearest = -1;
  points.forEach(({ at }, index) => {
    if (nearest < 0 || Math.abs(at - caret) < Math.abs(points[nearest].at - caret)) nearest = index;
  });
  return nearest;
}

const noPoint = () =>
  notify('info', say`This strip has no level points. {key:levelPoint} sets one at the caret.`);

/** Takes the point nearest to the caret away. */
export function removePointAtCaret(): void {
  const { id, points } = chosenStrip();
  const index = pointAtCaret(points);
  if (index < 0) return noPoint();
  setStrip(id, { points: withoutPoint(points, index) });
}

/** Makes the point nearest to the caret louder, or softer. */
export function liftPoint(stepDb: number): void {
  const { id, points } = chosenStrip();
  const index = pointAtCaret(points);
  if (index < 0) return noPoint();
  const { at, db } = points[index];
  setStrip(id, { points: movedPoint(points, index, { at, db: bounded(db + stepDb) }) });
}

/** A point on its way by the pointer, and where it is let go. */
export function dragPoint(
  id: string,
  points: readonly LevelPoint[],
  index: number,
  to: Pick<LevelPoint, 'at' | 'db'>,
  done: boolean,
): void {
  const moved = movedPoint(points, index, { at: to.at, db: bounded(to.db) });
  (done ? setStrip : draftStrip)(id, { points: moved });
}

/** The caret goes to the next point of the chosen strip, or to the one before. */
export function stepPoint(step: -1 | 1): void {
  const { points } = chosenStrip();
  const { caret } = usePart.getState();
  const beyond = points.filter(({ at }) => (step > 0 ? at > caret : at < caret));
  const next = beyond[step > 0 ? 0 : beyond.length - 1];
  if (next) setCaret(next.at);
  else if (points.length === 0) noPoint();
}
