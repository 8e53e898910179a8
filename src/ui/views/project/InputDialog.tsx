'use client';
import { decimal, say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import { toParolaError } from '@/core/base/errors';
import { canChooseOutput, outputId, setOutput } from '@/state/hearing/engine';
import { chooseInput, inputName, monitor, useInput } from '@/state/recording/input';
import { notifyError } from '@/state/page/notices';
import { checkLoopback, roundTrip, type RoundTrip } from '@/state/recording/roundTrip';
import { useProject } from '@/state/project/openProject';
import { useTransport } from '@/state/hearing/transport';
import { GuideTable } from './GuideTable';
import { TrackTable } from './TrackTable';
import { WhatIsWrong } from '../../components/WhatIsWrong';

/** Everything about inputs that is set once and then left alone. */
export function InputDialog({ onClose }: { onClose: () => void }) {
  const { status, choice, detail, warnings } = useInput();
  const open = status === 'open';
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth disableRestoreFocus>
      <DialogTitle>{say`Inputs and tracks`}</DialogTitle>
      <DialogContent>
        <Typography sx={{ mb: 1 }}>
          {choice && open ? (
            <>
              <b>{inputName(choice)}</b>
              {say` grants: ${detail}`}
            </>
          ) : (
            say`No input is open. Choose one at the top of the window first.`
          )}
        </Typography>
        {warnings.map((warning) => (
          <WhatIsWrong key={warning} about="booth" severity="warning" sx={{ mb: 1 }}>
            {warning}
          </WhatIsWrong>
        ))}
        <TrackTable />
        <GuideTable />
        {open && <Hearing />}
        {open && choice?.kind === 'reader' && <SimulatedDevice />}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>{say`Done`}</Button>
      </DialogActions>
    </Dialog>
  );
}

const heading = { mt: 2.5, mb: 1 };

/** Output, round trip, and hearing oneself. */
function Hearing() {
  const { outputs, monitoring, choice } = useInput();
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const idle = useTransport((state) => state.mode === 'idle');
  const [trip, setTrip] = useState<RoundTrip | null>(null);
  const [checking, setChecking] = useState(false);
  const [failure, setFailure] = useState('');
  const [output, setChosen] = useState(outputId());
  useEffect(() => {
    let current = true;
    void roundTrip().then((value) => current && setTrip(value));
    return () => {
      current = false;
    };
  }, [choice, output]);
  const milliseconds = trip ? `${decimal((trip.frames / rateHz) * 1000, 1)} ms` : '…';
  const check = async () => {
    setChecking(true);
    setFailure('');
    try {
      setTrip(await checkLoopback());
    } catch (error) {
      setFailure(toParolaError(error).message);
    }
    setChecking(false);
  };
  const moveOutput = async (id: string) => {
    try {
      await setOutput(id);
      setChosen(id);
    } catch (error) {
      notifyError(error);
    }
  };
  return (
    <>
      <Typography variant="h3" sx={heading}>{say`Round trip`}</Typography>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2 }}>
        <span data-testid="round-trip">
          {trip?.measured
            ? say`Measured: ${trip.frames} frames, ${milliseconds}.`
            : say`Estimated: ${milliseconds}.`}
        </span>
        <Button
          size="small"
          variant="outlined"
          disabled={checking || !idle || choice?.kind === 'far'}
          onClick={() => void check()}
        >
          {checking ? say`Listening …` : say`Loopback check`}
        </Button>
      </Box>
      {failure && (
        <WhatIsWrong about="booth" severity="warning" sx={{ my: 1 }}>
          {failure}
        </WhatIsWrong>
      )}
      <Typography
        variant="body2"
        color="text.secondary"
      >{say`A retake is placed by it. The check plays five clicks: hold the headphones to the microphone, or connect output and input with a cable.`}</Typography>
      <Typography variant="h3" sx={heading}>{say`Hearing`}</Typography>
      <FormControlLabel
        control={<Switch checked={monitoring} onChange={(_, on) => void monitor(on)} />}
        label={say`Hear yourself through Parola, ${milliseconds} late`}
      />
      {monitoring && (
        <Alert
          severity="warning"
          sx={{ mb: 1 }}
        >{say`If your microphone or interface lets you hear yourself by itself, turn one of the two off: you would hear yourself twice. Use headphones, or it howls.`}</Alert>
      )}
      {!canChooseOutput() && (
        <Typography
          color="text.secondary"
          sx={{ mt: 1 }}
        >{say`This browser plays where the system does: choose the output there.`}</Typography>
      )}
      {canChooseOutput() && outputs.length > 0 && (
        <TextField
          select
          size="small"
          label={say`Output`}
          value={output}
          onChange={(event) => void moveOutput(event.target.value)}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
          sx={{ minWidth: 300, mt: 1, display: 'flex', width: 'fit-content' }}
        >
          <MenuItem value="">{say`The system’s own choice`}</MenuItem>
          {outputs.map(({ deviceId, label }, index) => (
            <MenuItem key={deviceId} value={deviceId}>
              {label || say`Output ${index + 1}`}
            </MenuItem>
          ))}
        </TextField>
      )}
    </>
  );
}

const longestDelayMs = 500;

/** The practice reader stands in for a device: with a delay, and with ears, the whole path can be tried. */
function SimulatedDevice() {
  const choice = useInput((state) => state.choice);
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const frames = choice?.kind === 'reader' ? (choice.delayFrames ?? 0) : 0;
  const [text, setText] = useState(String(frames));
  if (choice?.kind !== 'reader') return null;
  const value = Number(text);
  const most = (longestDelayMs / 1000) * rateHz;
  const wrong = !Number.isInteger(value) || value < 0 || value > most;
  return (
    <>
      <Typography variant="h3" sx={heading}>{say`The simulated device`}</Typography>
      <Box sx={{ display: 'flex', alignItems: 'start', gap: 2 }}>
        <TextField
          size="small"
          label={say`Delay in frames`}
          value={text}
          error={wrong}
          helperText={wrong ? say`A whole number up to ${most}.` : ' '}
          onChange={(event) => setText(event.target.value)}
          onBlur={() => !wrong && value !== frames && void chooseInput({ ...choice, delayFrames: value })}
        />
        <FormControlLabel
          control={
            <Switch
              checked={choice.hearsOutput ?? false}
              onChange={(_, hearsOutput) => void chooseInput({ ...choice, hearsOutput })}
            />
          }
          label={say`It hears what is played`}
        />
      </Box>
    </>
  );
}
