'use client';
import KeyboardOutlined from '@mui/icons-material/KeyboardOutlined';
import Redo from '@mui/icons-material/Redo';
import Undo from '@mui/icons-material/Undo';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Tooltip from '@mui/material/Tooltip';
import type { ReactNode } from 'react';
import { closeUpSelection, redo, stetSelection, strikeSelection, undo, usePart } from '@/state/part';
import { useSession } from '@/state/session';
import { useTransport } from '@/state/transport';
import { secondsPerRowChoices, setSecondsPerRow, useView } from '@/state/view';

/** The proofreader's edits, above the sheet they act on. */
export function EditStrip() {
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useSession((state) => state.readOnly);
  const selected = usePart((state) => state.selection !== null);
  const historyAt = usePart((state) => state.historyAt);
  const historyLength = usePart((state) => state.historyLength);
  const steps = usePart((state) => state.steps);
  const undoLabel = steps.get(historyAt - 1)?.label;
  const redoLabel = historyAt < historyLength ? steps.get(historyAt)?.label : undefined;
  const still = idle && !readOnly;
  return (
    <Box
      role="toolbar"
      aria-label="Edit"
      onMouseDown={(event) => event.preventDefault()}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.5,
        px: 1.5,
        height: 42,
        borderBottom: 1,
        borderColor: 'divider',
        flexShrink: 0,
      }}
    >
      <EditButton name="Strike" keys="Backspace" disabled={!selected || !still} onClick={strikeSelection} />
      <EditButton name="Stet" keys="Shift+Backspace" disabled={!still} onClick={stetSelection} />
      <EditButton name="Close up" keys="Ctrl/Cmd+J" disabled={!still} onClick={closeUpSelection} />
      <Small
        label={undoLabel ? `Undo ${undoLabel}` : 'Nothing to undo'}
        disabled={!undoLabel || !still}
        onClick={() => void undo()}
      >
        <Undo fontSize="small" />
      </Small>
      <Small
        label={redoLabel ? `Redo ${redoLabel}` : 'Nothing to redo'}
        disabled={!redoLabel || !still}
        onClick={() => void redo()}
      >
        <Redo fontSize="small" />
      </Small>
      <Box sx={{ flex: 1 }} />
      <RowLength />
      <Small label="All keys (?)" onClick={() => useView.setState({ keysShown: true })}>
        <KeyboardOutlined fontSize="small" />
      </Small>
    </Box>
  );
}

interface EditButtonProps {
  name: string;
  keys: string;
  disabled: boolean;
  onClick: () => void;
}

const EditButton = ({ name, keys, disabled, onClick }: EditButtonProps) => (
  <Button disabled={disabled} onClick={onClick} title={keys} size="small" color="inherit" sx={{ px: 1.25 }}>
    {name}
  </Button>
);

interface SmallProps {
  label: string;
  disabled?: boolean;
  onClick: () => void;
  children: ReactNode;
}

function Small({ label, disabled, onClick, children }: SmallProps) {
  return (
    <Tooltip title={label}>
      <span>
        <IconButton size="small" aria-label={label} disabled={disabled} onClick={onClick}>
          {children}
        </IconButton>
      </span>
    </Tooltip>
  );
}

function RowLength() {
  const secondsPerRow = useView((state) => state.secondsPerRow);
  return (
    <Select
      size="small"
      variant="standard"
      disableUnderline
      value={secondsPerRow}
      onChange={(event) => setSecondsPerRow(Number(event.target.value))}
      aria-label="Seconds per row"
      renderValue={(value) => `${value} s per row`}
      sx={{ fontSize: 13, mr: 0.5 }}
      MenuProps={{ disableRestoreFocus: true }}
    >
      {secondsPerRowChoices.map((choice) => (
        <MenuItem key={choice} value={choice}>
          {choice} s per row
        </MenuItem>
      ))}
    </Select>
  );
}
