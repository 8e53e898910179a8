import { create } from 'zustand';
import { summaryOf, type Lag, type LagSummary } from '@/core/speech/lag';
import { guidesOf, recordedTo } from '@/core/timeline/guides';
import { peakFrames } from '@/core/timeline/peaks';
import type { Timeline } from '@/core/timeline/timeline';
import { useTransport } from '../hearing/transport';
import { analysisClient } from '../page/jobs';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject } from '../project/openProject';
import { usePart } from '../sheet/part';
import { levelsOf } from './tableLevels';

/** How far the voice of the open part is behind its guide, along the sheet; empty where it cannot be told. */
interface Lagging {
  readonly lags: readonly Lag[];
  readonly summary: LagSummary | null;
}

const none: Lagging = { lags: [], summary: null };

export const useLag = create<Lagging>(() => none);
whenProjectCloses(() => useLag.setState(none));

/** The voice that has been recorded furthest, against the first guide. */
async function measure(timeline: Timeline): Promise<Lagging> {
  const [guide] = guidesOf(timeline);
  const ends = timeline.tracks.map(({ id, table }) => ({ table, end: recordedTo(timeline, new Set([id])) }));
  const { table, end } = ends.reduce((best, other) => (other.end > best.end ? other : best));
  if (!guide || end === 0) return none;
  const [voice, heard] = [await levelsOf(table, end), await levelsOf(guide.table, end)];
  const stepSeconds = peakFrames / rateOfProject();
  const lags = await analysisClient.run('lag', { voice, guide: heard, stepSeconds });
  return { lags, summary: summaryOf(lags) };
}

const restMs = 800;

/** Measures anew whenever the open part has a guide and was edited. Returns what ends it. */
export function followLag(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const renew = async () => {
    const { id, timeline } = usePart.getState();
    if (useTransport.getState().mode !== 'idle') return later();
    // What cannot be measured now is measured after the next edit; nothing else waits for it.
    const measured = await measure(timeline).catch(() => none);
    const now = usePart.getState();
    if (now.id === id && now.timeline.tracks === timeline.tracks && now.timeline.guides === timeline.guides)
      useLag.setState(measured);
  };
  const later = () => {
    clearTimeout(timer);
    timer = setTimeout(() => void renew(), restMs);
  };
  const forget = usePart.subscribe((now, before) => {
    const edited =
      now.timeline.tracks !== before.timeline.tracks || now.timeline.guides !== before.timeline.guides;
    if (now.id !== before.id || guidesOf(now.timeline).length === 0) useLag.setState(none);
    if ((edited || now.id !== before.id) && guidesOf(now.timeline).length > 0) later();
  });
  return () => {
    clearTimeout(timer);
    forget();
  };
}
