'use client';
import { usePart } from '@/state/sheet/part';
import { moveToPart, useMoveDialog } from '@/state/sheet/partEdits';
import { PartDialog } from '../../components/PartDialog';

/** Chooses the part a passage is moved to. */
export function MoveDialog() {
  const { open } = useMoveDialog();
  const openPart = usePart((state) => state.id);
  if (!open) return null;
  return (
    <PartDialog
      title="Move the passage to the end of …"
      without={openPart}
      onChoose={moveToPart}
      onClose={() => useMoveDialog.setState({ open: false })}
    />
  );
}
