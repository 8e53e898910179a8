import { create } from 'zustand';
import { otherSide } from '@/core/timeline/mixEdits';
import { plainHeardStrip } from '@/core/timeline/levelPoints';
import type { Sounding } from '@/core/timeline/sounding';
import type { Timeline } from '@/core/timeline/timeline';
import { whenProjectCloses } from '../page/resets';

/** How a voice with a chain is heard: finished, as it was recorded, or what the chain takes away. */
export const chainHears = ['finished', 'recorded', 'taken'] as const;
export type ChainHear = (typeof chainHears)[number];

/** A state of listening only, of no project and no delivery. */
interface ChainHearing {
  /** The track it is about; null outside of Finish. */
  readonly voice: string | null;
  readonly hear: ChainHear;
  /** Only this step runs; null for all that are on. */
  readonly alone: string | null;
  /** As recorded is heard as loud as finished. */
  readonly equal: boolean;
  /** What that takes, dB; null while it has not been measured. */
  readonly equalDb: number | null;
}

const usual: ChainHearing = { voice: null, hear: 'finished', alone: null, equal: true, equalDb: null };

export const useChainHearing = create<ChainHearing>(() => usual);
whenProjectCloses(() => useChainHearing.setState(usual));

export const setChainHear = (hear: ChainHear) => useChainHearing.setState({ hear });

/** Everything is heard finished again: what was compared is no longer looked at. */
export const hearFinished = () => useChainHearing.setState({ hear: 'finished', alone: null, voice: null });

/**
 * A sounding of a timeline with its voice as it is to be heard now; the timeline's tracks come first in
 * it.
 */
export function heardThrough(
  sounding: Sounding,
  timeline: Timeline,
  { voice, hear, alone, equal, equalDb }: ChainHearing = useChainHearing.getState(),
): Sounding {
  if (voice === null || (hear === 'finished' && alone === null)) return sounding;
  const other = otherSide(timeline, voice);
  return {
    ...sounding,
    tracks: sounding.tracks.map((track, index) => {
      const id = timeline.tracks[index]?.id;
      if (id !== voice && (other === null || id !== other)) return track;
      const { chain, ...strip } = track.strip ?? plainHeardStrip;
      const steps = alone === null ? chain : chain?.filter((step) => step.id === alone);
      if (hear === 'recorded')
        return { ...track, strip: { ...strip, levelDb: strip.levelDb + (equal ? (equalDb ?? 0) : 0) } };
      const chained = { ...strip, ...(steps && steps.length > 0 && { chain: steps }) };
      if (hear === 'finished') return { ...track, strip: chained };
      // Nothing is taken away where nothing runs.
      return {
        ...track,
        strip: chained.chain ? { ...chained, taken: true } : { ...strip, levelDb: -Infinity },
      };
    }),
  };
}
