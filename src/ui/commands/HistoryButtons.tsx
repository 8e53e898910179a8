import { say } from '@/texts/say';
import Redo from '@mui/icons-material/Redo';
import Undo from '@mui/icons-material/Undo';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import type { ReactNode } from 'react';
import { usePart } from '@/state/sheet/part';
import { useKeyText } from './keys';
import { run, type CommandId } from './registry';

interface SmallProps {
  label: string;
  id: CommandId;
  disabled?: boolean;
  children: ReactNode;
}

/** A command as a sign, with its name and key where the pointer rests. */
export function SmallButton({ label, id, disabled, children }: SmallProps) {
  const key = useKeyText()(id);
  return (
    <Tooltip title={key ? `${label} · ${key}` : label}>
      <span>
        <IconButton size="small" aria-label={label} disabled={disabled} onClick={() => run(id)}>
          {children}
        </IconButton>
      </span>
    </Tooltip>
  );
}

/** Undo and redo, each with what it would do. */
export function HistoryButtons({ disabled = false }: { disabled?: boolean }) {
  const historyAt = usePart((state) => state.historyAt);
  const historyLength = usePart((state) => state.historyLength);
  const steps = usePart((state) => state.steps);
  const undoLabel = steps.get(historyAt - 1)?.label;
  const redoLabel = historyAt < historyLength ? steps.get(historyAt)?.label : undefined;
  return (
    <>
      <SmallButton
        label={undoLabel ? say`Undo ${undoLabel}` : say`Nothing to undo`}
        id="undo"
        disabled={!undoLabel || disabled}
      >
        <Undo fontSize="small" />
      </SmallButton>
      <SmallButton
        label={redoLabel ? say`Redo ${redoLabel}` : say`Nothing to redo`}
        id="redo"
        disabled={!redoLabel || disabled}
      >
        <Redo fontSize="small" />
      </SmallButton>
    </>
  );
}
