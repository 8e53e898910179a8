'use client';
import FiberManualRecord from '@mui/icons-material/FiberManualRecord';
import KeyboardOutlined from '@mui/icons-material/KeyboardOutlined';
import PlayArrow from '@mui/icons-material/PlayArrow';
import Redo from '@mui/icons-material/Redo';
import Stop from '@mui/icons-material/Stop';
import Undo from '@mui/icons-material/Undo';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Tooltip from '@mui/material/Tooltip';
import { useEffect, useRef, type ReactNode } from 'react';
import { formatTime } from '@/core/base/units';
import { closeUpSelection, redo, stetSelection, strikeSelection, undo, usePart } from '@/state/part';
import { rateOfProject, useSession } from '@/state/session';
import { headFrame, recordIntent, useTransport } from '@/state/transport';
import { secondsPerRowChoices, setSecondsPerRow, useView } from '@/state/view';
import { mark, togglePlay, toggleRecord } from '../../keys/commands';

/** A click on the deck leaves the focus where it was: Space and Enter go on meaning play and record. */
const keepFocus = (event: { preventDefault: () => void }) => event.preventDefault();

export function Deck() {
  const mode = useTransport((state) => state.mode);
  const readOnly = useSession((state) => state.readOnly);
  const idle = mode === 'idle';
  const selected = usePart((state) => state.selection !== null);
  const historyAt = usePart((state) => state.historyAt);
  const historyLength = usePart((state) => state.historyLength);
  const steps = usePart((state) => state.steps);
  const undoLabel = steps.get(historyAt - 1)?.label;
  const redoLabel = historyAt < historyLength ? steps.get(historyAt)?.label : undefined;
  return (
    <Box
      component="footer"
      onMouseDown={keepFocus}
      aria-label="Deck"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.25,
        px: 2,
        height: 76,
        borderTop: 1,
        borderColor: 'divider',
        flexShrink: 0,
      }}
    >
      <RecordButton />
      <DeckButton
        onClick={togglePlay}
        disabled={mode === 'recording' || mode === 'finishing'}
        icon={mode === 'playing' ? <Stop /> : <PlayArrow />}
        title={mode === 'playing' ? 'Stop' : 'Play'}
        detail="Space"
      />
      <DeckButton
        onClick={() => mark('flub')}
        disabled={readOnly}
        icon={<Sign colour="warning.main">∿</Sign>}
        title="Flub"
        detail="F"
      />
      <Clock />
      <Box sx={{ flex: 1 }} />
      <EditButton name="Strike" keys="Backspace" disabled={!selected} onClick={strikeSelection} />
      <EditButton name="Stet" keys="Shift+Backspace" onClick={stetSelection} />
      <EditButton name="Close up" keys="Ctrl/Cmd+J" onClick={closeUpSelection} />
      <Small
        label={undoLabel ? `Undo ${undoLabel}` : 'Nothing to undo'}
        disabled={!undoLabel || !idle || readOnly}
        onClick={() => void undo()}
      >
        <Undo fontSize="small" />
      </Small>
      <Small
        label={redoLabel ? `Redo ${redoLabel}` : 'Nothing to redo'}
        disabled={!redoLabel || !idle || readOnly}
        onClick={() => void redo()}
      >
        <Redo fontSize="small" />
      </Small>
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
  disabled?: boolean;
  onClick: () => void;
}

function EditButton({ name, keys, disabled, onClick }: EditButtonProps) {
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useSession((state) => state.readOnly);
  return (
    <Button
      disabled={disabled || !idle || readOnly}
      onClick={onClick}
      title={keys}
      size="small"
      color="inherit"
    >
      {name}
    </Button>
  );
}

function Sign({ colour, children }: { colour: string; children: ReactNode }) {
  return (
    <Box component="span" sx={{ color: colour, fontSize: 22, lineHeight: 1, fontWeight: 700 }}>
      {children}
    </Box>
  );
}

interface DeckButtonProps {
  onClick: () => void;
  icon: ReactNode;
  title: string;
  detail: string;
  disabled?: boolean;
}

function DeckButton({ onClick, icon, title, detail, disabled }: DeckButtonProps) {
  return (
    <Button
      onClick={onClick}
      disabled={disabled}
      startIcon={icon}
      aria-label={title}
      variant="outlined"
      sx={{
        height: 46,
        textAlign: 'left',
        borderColor: 'divider',
        color: 'text.primary',
        bgcolor: 'background.paper',
        px: 2,
      }}
    >
      <Box sx={{ lineHeight: 1.25 }}>
        {title}
        <Box
          component="span"
          sx={{ display: 'block', fontSize: 12, fontWeight: 400, color: 'text.secondary' }}
        >
          {detail}
        </Box>
      </Box>
    </Button>
  );
}

/** What Record will write, and where, is on the button before it is pressed. */
function RecordButton() {
  const mode = useTransport((state) => state.mode);
  // Everything the intent is made of, so that the button says it anew.
  useTransport((state) => state.input);
  usePart((state) => state.id);
  useSession((state) => state.sources);
  useSession((state) => state.readOnly);
  const recording = mode === 'recording';
  const intent = recordIntent();
  const overruns = useTransport((state) => state.live?.overrunFrames ?? 0);
  return (
    <Button
      onClick={toggleRecord}
      disabled={!recording && !intent.can}
      aria-label={recording ? 'Stop recording' : 'Record'}
      variant={recording ? 'contained' : 'outlined'}
      color="error"
      startIcon={<FiberManualRecord sx={{ fontSize: '16px !important' }} />}
      sx={{
        height: 46,
        textAlign: 'left',
        px: 2.25,
        minWidth: 148,
        bgcolor: recording ? undefined : 'background.paper',
      }}
    >
      <Box sx={{ lineHeight: 1.25 }}>
        {recording ? 'Recording' : 'Continue'}
        <Box component="span" sx={{ display: 'block', fontSize: 12, fontWeight: 400 }}>
          {overruns > 0 ? `${overruns} frames lost` : recording ? 'Enter stops' : intent.label}
        </Box>
      </Box>
    </Button>
  );
}

/** Where the head is, or the caret; written to the page directly, every frame while something moves. */
function Clock() {
  const ref = useRef<HTMLDivElement>(null);
  const caret = usePart((state) => state.caret);
  const mode = useTransport((state) => state.mode);
  useEffect(() => {
    const rate = rateOfProject();
    let frame = 0;
    const show = () => {
      if (ref.current) ref.current.textContent = formatTime((headFrame() ?? caret) / rate, true);
      if (mode !== 'idle') frame = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(frame);
  }, [caret, mode]);
  return (
    <Box
      ref={ref}
      role="timer"
      aria-label="Position on the sheet"
      data-testid="clock"
      sx={{ fontSize: 27, fontVariantNumeric: 'tabular-nums', minWidth: 150, ml: 1, letterSpacing: '0.01em' }}
    />
  );
}

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
      value={secondsPerRow}
      onChange={(event) => setSecondsPerRow(Number(event.target.value))}
      aria-label="Seconds per row"
      renderValue={(value) => `${value} s per row`}
      sx={{ borderRadius: 999, fontSize: 13, height: 34 }}
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
