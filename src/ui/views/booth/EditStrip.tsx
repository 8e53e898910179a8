'use client';
import KeyboardOutlined from '@mui/icons-material/KeyboardOutlined';
import Redo from '@mui/icons-material/Redo';
import Undo from '@mui/icons-material/Undo';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import Link from 'next/link';
import type { ReactNode } from 'react';
import { describeOutput } from '@/core/specs/fixText';
import { stetSelection, strikeSelection } from '@/state/sheet/editing';
import { closeUpSelection, redo, undo, usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { useStaveFocus } from '@/state/sheet/staveFocus';
import { useTransport } from '@/state/hearing/transport';
import { useView } from '@/state/page/view';
import { JoinMenu } from './menus/JoinMenu';
import { LookMenu } from './menus/LookMenu';
import { PassageMenu } from './menus/PassageMenu';
import { RoomMenu } from './menus/RoomMenu';

/** The proofreader's edits, above the sheet they act on. */
export function EditStrip() {
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useProject((state) => state.readOnly);
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
        gap: 0.25,
        px: 1.5,
        height: 42,
        borderBottom: 1,
        borderColor: 'divider',
        flexShrink: 0,
        overflow: 'hidden',
      }}
    >
      <EditButton name="Strike" keys="Backspace" disabled={!selected || !still} onClick={strikeSelection} />
      <EditButton name="Stet" keys="Shift+Backspace" disabled={!still} onClick={stetSelection} />
      <EditButton name="Close up" keys="Ctrl/Cmd+J" disabled={!still} onClick={closeUpSelection} />
      <PassageMenu disabled={!still} />
      <JoinMenu disabled={!still} />
      <RoomMenu disabled={!still} />
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
      <OutputSign />
      <FocusSign />
      <LookMenu />
      <Small label="All keys (?)" onClick={() => useView.setState({ keysShown: true })}>
        <KeyboardOutlined fontSize="small" />
      </Small>
    </Box>
  );
}

/** Gain and ceiling of the whole part are heard here but were set in the Proof: no hidden state. */
function OutputSign() {
  const output = usePart((state) => state.timeline.output);
  const projectId = useProject((state) => state.project?.id);
  if (!output || !projectId) return null;
  return (
    <Button
      size="small"
      variant="outlined"
      component={Link}
      href={`/project/${projectId}/proof`}
      title="Set in the Proof for the whole part; the sheet shows it as it was recorded"
      sx={{ py: 0, mr: 1, whiteSpace: 'nowrap' }}
    >
      Heard: {describeOutput(output)}
    </Button>
  );
}

/** Which stave edits of sound are for, where that is not all of them: no hidden state. */
function FocusSign() {
  const focus = useStaveFocus((state) => state.track);
  const tracks = usePart((state) => state.timeline.tracks);
  const track = tracks.length > 1 ? tracks.find(({ id }) => id === focus) : undefined;
  if (!track) return null;
  return (
    <Button
      size="small"
      variant="outlined"
      onClick={() => useStaveFocus.setState({ track: null })}
      title="Strikes, gain, fades and room tone are for this stave alone. Click for all staves. Shift+S"
      sx={{ py: 0, mr: 1, whiteSpace: 'nowrap' }}
    >
      Only {track.name}
    </Button>
  );
}

interface EditButtonProps {
  name: string;
  keys: string;
  disabled: boolean;
  onClick: () => void;
}

const EditButton = ({ name, keys, disabled, onClick }: EditButtonProps) => (
  <Button
    disabled={disabled}
    onClick={onClick}
    title={keys}
    size="small"
    color="inherit"
    sx={{ px: 1, minWidth: 0, whiteSpace: 'nowrap' }}
  >
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
