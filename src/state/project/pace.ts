import { readersPace } from '@/core/script/reading';
import { loadTimeline } from '@/core/timeline/stored';
import { rateOfProject, useProject, type PartRecord } from './openProject';

let known: { parts: readonly PartRecord[]; pace: number | null } | null = null;

/** The pace of whoever reads the open project, in words a minute; null where too little was read. */
export function paceOfProject(): number | null {
  const { parts } = useProject.getState();
  if (known?.parts !== parts) {
    const read = parts.map(({ script, timeline }) => ({ script, timeline: loadTimeline(timeline) }));
    known = { parts, pace: readersPace(read, rateOfProject()) };
  }
  return known.pace;
}
