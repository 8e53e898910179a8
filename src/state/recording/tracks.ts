import { say } from '@/texts/say';
import { strike } from '@/core/timeline/edits';
import { cutBack, recordedTo } from '@/core/timeline/guides';
import { sheetFramesOf } from '@/core/timeline/timeline';
import { addTrack, changeTrack, removeTrack } from '@/core/timeline/tracks';
import { newId } from '@/storage/projects';
import { notify } from '../page/notices';
import { armedNow, setRoute } from './input';
import { edit, usePart } from '../sheet/part';
import { useTransport } from '../hearing/transport';

/**
 * Changes of the staves of the open part; each is a step that can be undone, and none is possible while
 * recording.
 */
const idle = () => useTransport.getState().mode === 'idle';

/** A track for the next input, armed. */
export function addStave(name: string): void {
  if (!idle()) return;
  const { tracks } = usePart.getState().timeline;
  const id = `track-${newId().slice(0, 8)}`;
  if (edit(say`add track`, (timeline) => addTrack(timeline, { id, name }))) {
    setRoute(id, { channel: tracks.length, armed: true });
  }
}

export function renameStave(id: string, name: string): void {
  const trimmed = name.trim();
  if (idle() && trimmed) edit(say`rename track`, (timeline) => changeTrack(timeline, id, { name: trimmed }));
}

export function removeStave(id: string): void {
  if (idle()) edit(say`remove track`, (timeline) => removeTrack(timeline, id));
}

/** Makes the first track and one beside it the two sides of a stereo pair on inputs 1 and 2. */
export function makeStereoPair(): void {
  if (!idle()) return;
  const [first, second] = usePart.getState().timeline.tracks;
  const otherId = second?.id ?? `track-${newId().slice(0, 8)}`;
  edit(say`stereo pair`, (timeline) => {
    const two = second ? timeline : addTrack(timeline, { id: otherId, name: say`Right` });
    const left = changeTrack(two, first.id, { name: say`Left`, side: 'left' });
    return changeTrack(left, otherId, { name: say`Right`, side: 'right' });
  });
  setRoute(first.id, { channel: 0, armed: true });
  setRoute(otherId, { channel: 1, armed: true });
}

/**
 * Cuts the reading on the armed tracks back to the caret, so that it can be gone on with there. In a part in
 * step, or where other tracks are not armed, its time stays; otherwise it is struck.
 */
export function cutBackToCaret(): void {
  const { timeline, caret } = usePart.getState();
  const armed = new Set(armedNow().map(({ id }) => id));
  const end = sheetFramesOf(timeline);
  const alone = timeline.tracks.every(({ id }) => armed.has(id));
  const done = edit(say`cut back`, (before) =>
    alone && recordedTo(before, armed) > caret
      ? strike(before, { from: caret, to: end })
      : cutBack(before, caret, armed),
  );
  if (!done) notify('info', say`Nothing is recorded after the caret on the tracks that are armed.`);
}

/** Lets a track be heard in the middle again. */
export const clearSide = (id: string) =>
  idle() && edit(say`mono track`, (timeline) => changeTrack(timeline, id, { side: undefined }));
