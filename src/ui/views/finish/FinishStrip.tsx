import KeyboardOutlined from '@mui/icons-material/KeyboardOutlined';
import Redo from '@mui/icons-material/Redo';
import Undo from '@mui/icons-material/Undo';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import type { ReactNode } from 'react';
import { usePart } from '@/state/sheet/part';
import { useKeyText } from '../../commands/keys';
import { run, type CommandId } from '../../commands/registry';
import { LookMenu } from '../booth/menus/LookMenu';

/** Undo, redo and how the sheet is looked at. */
export function FinishStrip() {
  const historyAt = usePart((state) => state.historyAt);
  const steps = usePart((state) => state.steps);
  const undoLabel = steps.get(historyAt - 1)?.label;
  const redoLabel = steps.get(historyAt)?.label;
  return (
    <Box
      role="toolbar"
      aria-label="Edit"
      onMouseDown={(event) => event.preventDefault()}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.25,
        px: 1.5,
        height: 42,
        borderBottom: 1,
        borderColor: 'divider',
        flexShrink: 0,
      }}
    >
      <Small label={undoLabel ? `Undo ${undoLabel}` : 'Nothing to undo'} id="undo" disabled={!undoLabel}>
        <Undo fontSize="small" />
      </Small>
      <Small label={redoLabel ? `Redo ${redoLabel}` : 'Nothing to redo'} id="redo" disabled={!redoLabel}>
        <Redo fontSize="small" />
      </Small>
      <Box sx={{ flex: 1, pl: 1.5, fontSize: 13, color: 'text.secondary' }}>
        Double-click a stave, or <Key id="levelPoint" />, sets a level point; drag it, or{' '}
        <Key id="pointLouder" /> <Key id="pointSofter" />.
      </Box>
      <LookMenu />
      <Small label="All keys" id="allKeys">
        <KeyboardOutlined fontSize="small" />
      </Small>
    </Box>
  );
}

function Key({ id }: { id: CommandId }) {
  const keyText = useKeyText();
  return (
    <Box component="kbd" sx={{ fontFamily: 'inherit', fontWeight: 600 }}>
      {keyText(id)}
    </Box>
  );
}

function Small({
  label,
  id,
  disabled,
  children,
}: {
  label: string;
  id: CommandId;
  disabled?: boolean;
  children: ReactNode;
}) {
  const keyText = useKeyText();
  return (
    <Tooltip title={`${label} · ${keyText(id)}`}>
      <span>
        <IconButton size="small" aria-label={label} disabled={disabled} onClick={() => run(id)}>
          {children}
        </IconButton>
      </span>
    </Tooltip>
  );
}
