import { useEffect, useMemo } from 'react';
import { otherSide } from '@/core/timeline/mixEdits';
import type { Timeline } from '@/core/timeline/timeline';
import { voiceSounding } from '@/state/chain/chains';
import { finishedPictures } from '@/state/chain/finishedPicture';
import type { FinishedInk } from '../../../canvas/drawFinished';

/** The shown voice as it comes out of its chain, for the sheet; null where it has none. */
export function useFinishedInk(timeline: Timeline, voice: string | null): FinishedInk | null {
  const sound = useMemo(() => (voice === null ? null : voiceSounding(timeline, voice)), [timeline, voice]);
  const version = useMemo(() => finishedPictures.show(sound), [sound]);
  useEffect(() => () => void finishedPictures.show(null), []);
  const other = voice === null ? null : otherSide(timeline, voice);
  const isRight = timeline.tracks.find(({ id }) => id === voice)?.side === 'right';
  const channels = useMemo(() => {
    const map = new Map<string, number>();
    if (voice !== null) map.set(voice, other !== null && isRight ? 1 : 0);
    if (other !== null) map.set(other, isRight ? 0 : 1);
    return map;
  }, [voice, other, isRight]);
  const isThere = sound !== null;
  return useMemo(
    () =>
      isThere
        ? { version, channels, span: (channel, from, to) => finishedPictures.span(channel, from, to) }
        : null,
    [isThere, version, channels],
  );
}
