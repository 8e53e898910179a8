import { useMemo } from 'react';
import { openProposals, useFinding, type PlacedProposal } from '@/state/finds/finding';
import { usePart } from '@/state/sheet/part';

/** Open proposals where they stand now; worked out anew only when they or the sheet have changed. */
export function useOpenProposals(): PlacedProposal[] {
  const proposals = useFinding((state) => state.proposals);
  const partId = useFinding((state) => state.partId);
  const timeline = usePart((state) => state.timeline);
  const historyAt = usePart((state) => state.historyAt);
  const id = usePart((state) => state.id);
  return useMemo(
    () => openProposals({ proposals, partId }, { id, timeline, historyAt }),
    [proposals, partId, id, timeline, historyAt],
  );
}
