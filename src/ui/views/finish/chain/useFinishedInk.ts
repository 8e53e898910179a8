import { useEffect, useMemo } from 'react';
import { otherSide } from '@/core/timeline/mixEdits';
import type { Timeline } from '@/core/timeline/timeline';
import { voiceSounding } from '@/state/chain/chains';
import { finishedPictures } from '@/state/chain/finishedPicture';
import type { FinishedInk } from '../../../canvas/drawFinished';

/** The shown voice as it comes out of its chain, for the sheet; null where it has none. */
export function useFinishedInk(timeline: Timeline, voice: string | null): FinishedInk | null {
  const sound = useMemo(() => (voice === null ? null : voiceSounding(timeline, voice)), [timeline, voice]);
  useEffect(() => {
    finishedPictures.show(sound);
  }, [sound]);
  useEffect(() => () => finishedPictures.show(null), []);
  return useMemo(() => {
    if (voice === null || sound === null) return null;
    const other = otherSide(timeline, voice);
    const isRight = timeline.tracks.find(({ id }) => id === voice)?.side === 'right';
    const channels = new Map([[voice, other !== null && isRight ? 1 : 0]]);
    if (other !== null) channels.set(other, isRight ? 0 : 1);
    return { channels, span: (channel, from, to) => finishedPictures.span(channel, from, to) };
  }, [timeline, voice, sound]);
}
