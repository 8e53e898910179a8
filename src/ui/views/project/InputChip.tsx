'use client';
import { say } from '@/texts/say';
import FiberManualRecord from '@mui/icons-material/FiberManualRecord';
import WarningAmber from '@mui/icons-material/WarningAmber';
import Chip from '@mui/material/Chip';
import Divider from '@mui/material/Divider';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useRef, useState } from 'react';
import { showSession } from '@/state/far/far';
import { practise } from '@/state/far/session';
import { chooseInput, inputName, missingMicrophone, refreshDevices, useInput } from '@/state/recording/input';
import { useProject, type InputChoice } from '@/state/project/openProject';
import { notify } from '@/state/page/notices';
import { useTransport } from '@/state/hearing/transport';
import { InputDialog } from './InputDialog';

const audioFiles = 'audio/*,.wav,.flac,.mp3,.m4a,.ogg,.opus,.webm';

/**
 * The input is always in sight. None is taken until the user chooses one; the one used last is offered, not
 * opened.
 */
export function InputChip() {
  const { status, choice, detail, warnings, microphones, lastMicrophone } = useInput();
  const mode = useTransport((state) => state.mode);
  const remembered = useProject((state) => state.project?.input ?? null);
  const readOnly = useProject((state) => state.readOnly);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [settings, setSettings] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  if (readOnly) return null;

  const choose = (chosen: InputChoice, file: File | null = null) => {
    setAnchor(null);
    void chooseInput(chosen, file);
  };
  const isReader = (script: ReaderScript) =>
    choice?.kind === 'reader' && (choice.script ?? 'narration') === script;
  const missing = missingMicrophone();
  const none = missing
    ? say`“${missing}” is not there`
    : remembered
      ? say`Choose the input · last: ${inputName(remembered)}`
      : say`Choose the input`;
  const labels = {
    none,
    opening: say`Opening …`,
    open: choice ? `${inputName(choice)} · ${detail}` : '',
    failed: choice ? say`${inputName(choice)}: not available` : say`No input`,
  };
  // The one used last first; the others as the system has them.
  const named = microphones
    .filter((device) => device.label !== '')
    .sort((a, b) => Number(b.label === lastMicrophone) - Number(a.label === lastMicrophone));
  const warned = status === 'open' && warnings.length > 0;
  const dot = missing ? 'error' : status === 'open' ? 'success' : status === 'failed' ? 'error' : 'disabled';
  return (
    <>
      <Chip
        variant="outlined"
        size="small"
        icon={
          warned ? (
            <WarningAmber color="warning" sx={{ fontSize: '16px !important' }} />
          ) : (
            <FiberManualRecord sx={{ fontSize: '12px !important' }} color={dot} />
          )
        }
        label={labels[status]}
        title={warned ? warnings.join(' ') : detail || undefined}
        disabled={mode !== 'idle'}
        onClick={(event) => {
          setAnchor(event.currentTarget);
          void refreshDevices().catch(() => undefined);
        }}
        onMouseDown={(event) => event.preventDefault()}
        aria-haspopup="menu"
        aria-label={say`Input: ${labels[status]}`}
        // What is being recorded stays readable while it cannot be changed.
        sx={{ height: 28, maxWidth: 330, '&.Mui-disabled': { opacity: 1 } }}
      />
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} disableRestoreFocus>
        {named.map((device) => (
          <MenuItem
            key={device.deviceId}
            selected={choice?.kind === 'microphone' && choice.deviceId === device.deviceId}
            onClick={() => choose({ kind: 'microphone', ...device })}
          >
            <ListItemText
              primary={device.label}
              secondary={device.label === lastMicrophone ? say`Used last` : undefined}
            />
          </MenuItem>
        ))}
        {named.length === 0 && (
          <MenuItem onClick={() => choose({ kind: 'microphone', deviceId: '', label: say`Microphone` })}>
            <ListItemText
              primary={say`Microphone …`}
              secondary={say`The browser asks for permission and which one`}
            />
          </MenuItem>
        )}
        <Divider />
        <MenuItem
          selected={choice?.kind === 'far'}
          onClick={() => {
            choose({ kind: 'far' });
            showSession(true);
          }}
        >
          <ListItemText
            primary={say`Somebody far away …`}
            secondary={say`Recorded where they are, steered from here`}
          />
        </MenuItem>
        <MenuItem selected={isReader('narration')} onClick={() => choose(readerChoice(choice, 'narration'))}>
          <ListItemText
            primary={say`Practice reader`}
            secondary={say`Reads the demo script into the recording path; no microphone needed`}
          />
        </MenuItem>
        <MenuItem
          selected={isReader('conversation')}
          onClick={() => choose(readerChoice(choice, 'conversation'))}
        >
          <ListItemText
            primary={say`Practice reader, two voices`}
            secondary={say`A conversation on two inputs`}
          />
        </MenuItem>
        <MenuItem
          selected={isReader('interpretation')}
          onClick={() => choose(readerChoice(choice, 'interpretation'))}
        >
          <ListItemText
            primary={say`Practice interpreter`}
            secondary={say`Speaks over the demo’s statement, with a mistake`}
          />
        </MenuItem>
        <MenuItem selected={isReader('cues')} onClick={() => choose(readerChoice(choice, 'cues'))}>
          <ListItemText
            primary={say`Practice reader, cue by cue`}
            secondary={say`Both voices of the keepers’ film, a little off; one line goes wrong the first time`}
          />
        </MenuItem>
        <MenuItem onClick={() => void openPractice(choose)}>
          <ListItemText
            primary={say`A guest who practises`}
            secondary={say`Somebody far away in a window of its own, behind a network like a real one`}
          />
        </MenuItem>
        <MenuItem selected={choice?.kind === 'file'} onClick={() => picker.current?.click()}>
          <ListItemText
            primary={say`A sound file …`}
            secondary={say`Plays into the recording in real time`}
          />
        </MenuItem>
        <Divider />
        <MenuItem
          onClick={() => {
            setAnchor(null);
            setSettings(true);
          }}
        >{say`Inputs and tracks …`}</MenuItem>
      </Menu>
      <input
        ref={picker}
        type="file"
        accept={audioFiles}
        hidden
        aria-label={say`Sound file as input`}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) choose({ kind: 'file', name: file.name }, file);
        }}
      />
      {settings && <InputDialog onClose={() => setSettings(false)} />}
    </>
  );
}

/** The window is opened with the click: a browser allows it only then. */
async function openPractice(choose: (choice: InputChoice) => void): Promise<void> {
  const guest = window.open('', '_blank', 'popup,width=900,height=700');
  choose({ kind: 'far' });
  const address = await practise();
  if (guest && address) guest.location.assign(address);
  else guest?.close();
  if (!guest && address)
    notify(
      'warning',
      say`The browser did not open the window of the guest. Allow windows for this page, then choose it again.`,
      'far',
    );
}

type ReaderScript = NonNullable<Extract<InputChoice, { kind: 'reader' }>['script']>;

/** The settings of the simulated device stay when another reading is chosen. */
function readerChoice(before: InputChoice | null, script: ReaderScript): InputChoice {
  return before?.kind === 'reader' ? { ...before, script } : { kind: 'reader', script };
}
