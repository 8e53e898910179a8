import type { ToneChoice } from '@/core/timeline/roomEdits';
import type { PartRecord } from '@/storage/schema';
import { useProject } from './openProject';

export type { ToneChoice } from '@/core/timeline/roomEdits';

/** Kept away from the ends of a sound check's silence: the reader has just sat down. */
const checkEdgeSeconds = 0.5;

/**
 * A sound check's silence as room tone, the latest one whose level is known; null where there is none, or it
 * was digital silence.
 */
function checkTone(): ToneChoice | null {
  const { sources } = useProject.getState();
  const tones = [...sources.values()].filter(({ role, deleted }) => role === 'tone' && !deleted);
  const latest = tones
    .sort((a, b) => b.startedAt - a.startedAt)
    .find(({ levelDbfs }) => levelDbfs !== undefined);
  if (latest?.levelDbfs === undefined) return null;
  const edge = Math.round(checkEdgeSeconds * latest.rateHz);
  if (latest.frames < 4 * edge) return null;
  const { id: source, levelDbfs } = latest;
  return { source, channel: 0, start: edge, end: latest.frames - edge, levelDbfs, origin: 'check' };
}

/** The room tone of a track of a part: the one that is kept with it, else the latest sound check's. */
export function toneOfTrack(part: Pick<PartRecord, 'tones'> | undefined, trackId: string): ToneChoice | null {
  const { sources } = useProject.getState();
  const own = part?.tones?.[trackId];
  return own && sources.has(own.source) ? own : checkTone();
}

/** Room tone by track, for the part of that id. */
export const toneLookup = (partId: string | null) => {
  const part = useProject.getState().parts.find(({ id }) => id === partId);
  return (trackId: string) => toneOfTrack(part, trackId);
};
