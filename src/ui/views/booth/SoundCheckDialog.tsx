'use client';
import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { format } from '@/texts/dates';
import { formatDb } from '@/core/base/units';
import type { SoundCheck } from '@/core/recording/soundCheck';
import { armedNow, inputName, useInput } from '@/state/recording/input';
import { useProject, type SoundCheckRecord } from '@/state/project/openProject';
import {
  adviceFor,
  closeSoundCheck,
  makeReference,
  matchAdvice,
  referenceOf,
  runSoundCheck,
  useSoundCheck,
} from '@/state/recording/soundCheck';
import { checkSteps } from '@/state/recording/checking';
import { AdviceList, CheckStepList } from './CheckSteps';
import { LevelBar } from './LevelBar';
import { LevelProfileChoice, useAim } from './LevelProfileChoice';

/** Be silent, read, read loud: then what to do, in numbers. */
export function SoundCheckDialog() {
  const open = useSoundCheck((state) => state.open);
  return (
    <Dialog open={open} onClose={closeSoundCheck} maxWidth="md" fullWidth disableRestoreFocus>
      {open && <SoundCheckContent />}
    </Dialog>
  );
}

function SoundCheckContent() {
  const { phase, result, earlier } = useSoundCheck();
  const running = phase !== 'ready' && phase !== 'done';
  return (
    <>
      <DialogTitle>{say`Sound check`}</DialogTitle>
      <DialogContent sx={{ display: 'flex', gap: 3, minHeight: 430 }}>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          {phase === 'done' && result ? <Result result={result} earlier={earlier} /> : <Steps />}
        </Box>
        <CheckLevel />
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={closeSoundCheck}>
          {running ? say`Call off` : say`Close`}
        </Button>
        <Button variant="contained" disabled={running} onClick={() => void runSoundCheck()} autoFocus>
          {phase === 'done' ? say`Check again` : say`Begin`}
        </Button>
      </DialogActions>
    </>
  );
}

function CheckLevel() {
  const aim = useAim();
  return (
    <Box sx={{ width: 130, display: 'flex', flexDirection: 'column' }}>
      <LevelBar channel={armedNow()[0]?.channel ?? 0} open aim={aim} compact={false} />
    </Box>
  );
}

function Steps() {
  const { phase, since } = useSoundCheck();
  const choice = useInput((state) => state.choice);
  const [track] = armedNow();
  return (
    <>
      <Typography color="text.secondary" sx={{ mb: 2 }}>
        {choice && inputName(choice)}
        {say`${track && say` · input ${track.channel + 1} · ${track.name}`}. It takes ${checkSteps.reduce((sum, { seconds }) => sum + seconds, 0)} seconds.`}
      </Typography>
      <LevelProfileChoice disabled={phase !== 'ready'} />
      <CheckStepList phase={phase} since={since} />
    </>
  );
}

function Result({ result, earlier }: { result: SoundCheck; earlier: readonly SoundCheckRecord[] }) {
  // The advice follows the profile that is chosen.
  useProject((state) => state.project?.levels);
  const reference = referenceOf(earlier, result);
  return (
    <>
      <AdviceList advice={adviceFor(result)} label={say`What to do`} />
      <LevelProfileChoice />
      <Figures checks={earlier} current={result} />
      {reference && (
        <>
          <Typography
            variant="h3"
            sx={{ mt: 1.5 }}
          >{say`Against the reference of ${format(reference.at, 'd MMM, HH:mm')}`}</Typography>
          <AdviceList advice={matchAdvice(result, reference)} label={say`To match the reference`} />
        </>
      )}
    </>
  );
}

const shownChecks = 4;

/** This session's figures beside earlier ones; the reference is chosen here. */
function Figures({ checks, current }: { checks: readonly SoundCheckRecord[]; current: SoundCheck }) {
  const level = (value: number) => formatDb(value, '');
  return (
    <Box
      component="table"
      sx={{
        width: '100%',
        mt: 2,
        fontSize: 13,
        borderCollapse: 'collapse',
        '& td, & th': {
          py: 0.5,
          px: 0.75,
          textAlign: 'right',
          borderBottom: 1,
          borderColor: 'divider',
          fontVariantNumeric: 'tabular-nums',
        },
        '& th:first-of-type, & td:first-of-type': { textAlign: 'left' },
      }}
    >
      <thead>
        <tr>
          <th>{say`Session`}</th>
          <th>{say`Room`}</th>
          <th>{say`Speech`}</th>
          <th>{say`Loudest`}</th>
          <th>{say`Over room`}</th>
          <th>{say`Hum`}</th>
          <th>{say`DC`}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {checks.slice(0, shownChecks).map(({ id, at, result, reference }) => (
          <tr key={id}>
            <td>{result === current ? say`Now` : format(at, 'd MMM, HH:mm')}</td>
            <td>{level(result.roomDbfs)}</td>
            <td>{level(result.speechDbfs)}</td>
            <td>{result.clippedSamples > 0 ? say`clipped` : level(result.loudestPeakDbfs)}</td>
            <td>
              {Number.isFinite(result.speechToNoiseDb) ? `${Math.round(result.speechToNoiseDb)} dB` : '–'}
            </td>
            <td>{result.hum ? `${result.hum.mainsHz} Hz` : say`none`}</td>
            <td>{`${decimal(result.dcOffset * 100, 1)} %`.replace('-', '−')}</td>
            <td>
              {reference ? (
                say`Reference`
              ) : (
                <Button
                  size="small"
                  color="inherit"
                  onClick={() => void makeReference(id)}
                >{say`Make reference`}</Button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
