'use client';
import FiberManualRecord from '@mui/icons-material/FiberManualRecord';
import Chip from '@mui/material/Chip';
import Divider from '@mui/material/Divider';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { microphones } from '@/state/engine';
import { useSession, type InputChoice } from '@/state/session';
import { chooseInput, useTransport } from '@/state/transport';

const nameOf = (choice: InputChoice) => (choice.kind === 'reader' ? 'Practice reader' : choice.label);

/** The input is always in sight. None is taken until the user chooses one; the one used last is offered, not opened. */
export function InputChip() {
  const { input, choice, inputDetail, mode } = useTransport();
  const remembered = useSession((state) => state.project?.input ?? null);
  const readOnly = useSession((state) => state.readOnly);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [devices, setDevices] = useState<{ deviceId: string; label: string }[]>([]);
  if (readOnly) return null;

  const open = async (target: HTMLElement) => {
    setDevices(await microphones());
    setAnchor(target);
  };
  const choose = (chosen: InputChoice) => {
    setAnchor(null);
    void chooseInput(chosen);
  };
  const labels = {
    none: remembered ? `Choose the input · last: ${nameOf(remembered)}` : 'Choose the input',
    opening: 'Opening …',
    open: choice ? `${nameOf(choice)} · ${inputDetail}` : '',
    failed: choice ? `${nameOf(choice)}: not available` : 'No input',
  };
  const named = devices.filter((device) => device.label !== '');
  return (
    <>
      <Chip
        variant="outlined"
        size="small"
        icon={
          <FiberManualRecord
            sx={{ fontSize: '12px !important' }}
            color={input === 'open' ? 'success' : input === 'failed' ? 'error' : 'disabled'}
          />
        }
        label={labels[input]}
        title={inputDetail || undefined}
        disabled={mode === 'recording' || mode === 'finishing'}
        onClick={(event) => void open(event.currentTarget)}
        onMouseDown={(event) => event.preventDefault()}
        aria-haspopup="menu"
        aria-label={`Input: ${labels[input]}`}
        // What is being recorded stays readable while it cannot be changed.
        sx={{ height: 28, maxWidth: 330, '&.Mui-disabled': { opacity: 1 } }}
      />
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} disableRestoreFocus>
        <MenuItem selected={choice?.kind === 'reader'} onClick={() => choose({ kind: 'reader' })}>
          <ListItemText
            primary="Practice reader"
            secondary="Reads the demo script into the recording path; no microphone needed"
          />
        </MenuItem>
        <Divider />
        {named.map((device) => (
          <MenuItem
            key={device.deviceId}
            selected={choice?.kind === 'microphone' && choice.deviceId === device.deviceId}
            onClick={() => choose({ kind: 'microphone', ...device })}
          >
            {device.label}
          </MenuItem>
        ))}
        {named.length === 0 && (
          <MenuItem onClick={() => choose({ kind: 'microphone', deviceId: '', label: 'Microphone' })}>
            <ListItemText primary="Microphone …" secondary="The browser asks for permission and which one" />
          </MenuItem>
        )}
      </Menu>
    </>
  );
}
