import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import type { Measurement } from '@/core/loudness/measure';
import { storeSounding } from '@/core/timeline/sounding';
import { loadTimeline } from '@/core/timeline/timeline';
import { proofClient } from './jobs';
import { notifyError } from './notices';
import { usePart } from './part';
import { sourceList, useSession } from './session';
import { joinLengths } from './transport';

interface Proofing {
  /** Results by part, with the pieces they were measured from: an edit makes a result old. */
  results: ReadonlyMap<string, { of: unknown; measurement: Measurement }>;
  measuring: { partId: string; done: number } | null;
}

export const useProofing = create<Proofing>(() => ({ results: new Map(), measuring: null }));

let controller: AbortController | null = null;

/** What a part sounds like now, as an identity: piece lists are immutable, so the same list is the same sound. */
export function soundOf(partId: string): unknown {
  const open = usePart.getState();
  if (open.id === partId) return open.timeline.tracks[0].table.pieces;
  return useSession.getState().parts.find((part) => part.id === partId)?.timeline.tracks[0].pieces;
}

/** Measures, one after another, every part whose result is missing or old. A running round is replaced. */
export async function measureParts(): Promise<void> {
  controller?.abort();
  const mine = (controller = new AbortController());
  const { parts, project } = useSession.getState();
  if (!project) return;
  try {
    for (const part of parts) {
      const of = soundOf(part.id);
      if (useProofing.getState().results.get(part.id)?.of === of) continue;
      const timeline =
        part.id === usePart.getState().id ? usePart.getState().timeline : loadTimeline(part.timeline);
      if (timeline.tracks[0].table.heardFrames === 0) continue;
      useProofing.setState({ measuring: { partId: part.id, done: 0 } });
      const measurement = await proofClient.run(
        'measure',
        {
          sounding: storeSounding(timeline),
          sources: sourceList().map(({ id, frames }) => ({ id, frames })),
          rateHz: project.rateHz,
          joins: joinLengths(),
        },
        {
          signal: mine.signal,
          progress: (done) => useProofing.setState({ measuring: { partId: part.id, done } }),
        },
      );
      useProofing.setState(({ results }) => ({
        results: new Map(results).set(part.id, { of, measurement }),
      }));
    }
  } catch (thrown) {
    if (toParolaError(thrown).code !== 'cancelled') notifyError(thrown);
  } finally {
    if (controller === mine) useProofing.setState({ measuring: null });
  }
}

export function cancelMeasuring(): void {
  controller?.abort();
}
