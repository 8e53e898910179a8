import { followLine } from './lines';
import { usePart } from '../sheet/part';
import { changePart } from '../project/settings';
import { useProject } from '../project/openProject';

/** Moves the place in the script; the reader's eye follows the line that is marked. */
export function stepLine(direction: -1 | 1): void {
  const part = openPartRecord();
  if (part) goToLine(part.currentLine + direction);
}

export function goToLine(index: number): void {
  const part = openPartRecord();
  if (!part) return;
  const currentLine = Math.max(0, Math.min(index, part.script.length - 1));
  if (currentLine !== part.currentLine) changePart(part.id, { currentLine });
  followLine(currentLine);
}

const openPartRecord = () => {
  const { id } = usePart.getState();
  return useProject.getState().parts.find((part) => part.id === id) ?? null;
};
