'use client';
import { say } from '@/texts/say';
import { usePart } from '@/state/sheet/part';
import { closeMoveDialog, moveToPart, putPartIn, useMoveDialog } from '@/state/sheet/partEdits';
import { PartDialog } from '../../components/PartDialog';

/** Chooses the part a passage is moved to, or the one that is put in. */
export function MoveDialog() {
  const { wanted } = useMoveDialog();
  const openPart = usePart((state) => state.id);
  if (!wanted) return null;
  return (
    <PartDialog
      title={wanted === 'move' ? say`Move the passage to the end of …` : say`Put in at the caret …`}
      without={openPart}
      onChoose={wanted === 'move' ? moveToPart : (id) => void putPartIn(id)}
      onClose={closeMoveDialog}
    />
  );
}
