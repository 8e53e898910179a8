'use client';
import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { levelProfiles } from '@/core/recording/levelProfiles';
import { leave } from '@/state/talent/session';
import { useTalent } from '@/state/talent/talent';
import { ThemeToggle } from '../../components/ThemeToggle';
import { serif } from '../../theme/theme';
import { CopyText } from '../../components/CopyText';
import { LevelBar } from '../booth/LevelBar';
import { CountIn } from './CountIn';
import { OwnRecordings } from './OwnRecordings';
import { PracticeNetwork } from './PracticeNetwork';
import { TalentClock } from './TalentClock';
import { TalentPicture } from './TalentPicture';
import { TalentScript } from './TalentScript';

const lines = {
  none: say`No line to the studio`,
  door: say`At the studio’s door …`,
  waiting: say`The studio has been told that you are here. Wait to be let in.`,
  opening: say`Opening the line …`,
  open: say`In the studio`,
  away: say`The line is down; it is opened again by itself. What is being recorded goes on here.`,
  refused: say`The studio has not let you in.`,
};

/**
 * In the session: what to read, large; whether one is recorded; how loud one is. Nothing has to be pressed.
 */
export function SessionStep() {
  const { line, unreached, project, trouble, microphone, microphoneDetail, film } = useTalent();
  return (
    <Box sx={{ height: '100dvh', display: 'flex', flexDirection: 'column' }}>
      <Box
        component="header"
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 2,
          px: 2,
          minHeight: 52,
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <Typography component="h1" noWrap sx={{ fontFamily: serif, fontWeight: 650, fontSize: 20 }}>
          {project || 'parola.'}
        </Typography>
        <Typography role="status" data-testid="talent-line" color="text.secondary" noWrap sx={{ flex: 1 }}>
          {lines[line]}
        </Typography>
        <TalentClock />
        <ThemeToggle />
        <Button variant="outlined" color="inherit" onClick={() => leave()}>{say`Leave`}</Button>
      </Box>
      <Sign />
      {unreached && line !== 'open' && (
        <Alert severity="warning" square>
          {say`${unreached} It is tried again by itself.`}
        </Alert>
      )}
      {microphone === 'failed' && (
        <Alert severity="error" square>
          {microphoneDetail}
        </Alert>
      )}
      {trouble && (
        <Alert severity="warning" square>
          {trouble}
        </Alert>
      )}
      <AnswerText />
      <Box component="main" sx={{ flex: 1, display: 'flex', minHeight: 0 }}>
        <Box sx={{ flex: 1, minWidth: 0, position: 'relative', display: 'flex', flexDirection: 'column' }}>
          {film ? (
            <TalentPicture />
          ) : (
            <>
              <TalentScript />
              <CountIn />
            </>
          )}
        </Box>
        <Box
          component="aside"
          aria-label={say`Level and recordings`}
          sx={{
            width: 300,
            borderLeft: 1,
            borderColor: 'divider',
            p: 2,
            display: 'flex',
            flexDirection: 'column',
            gap: 2,
          }}
        >
          <Box sx={{ flex: 1, minHeight: 200, display: 'flex', flexDirection: 'column' }}>
            <LevelBar
              channel={0}
              open={microphone === 'open'}
              aim={levelProfiles.quiet.peakDbfs}
              compact={false}
            />
          </Box>
          <Box sx={{ maxHeight: '35%', overflowY: 'auto' }}>
            <OwnRecordings />
          </Box>
          <PracticeNetwork />
        </Box>
      </Box>
    </Box>
  );
}

/** Where no server is between, the studio needs a text back before the line opens. */
function AnswerText() {
  const answerText = useTalent((state) => state.answerText);
  if (!answerText) return null;
  return (
    <Box sx={{ px: 2, py: 1.5, borderBottom: 1, borderColor: 'divider' }}>
      <CopyText
        label={say`Send this text back to the studio; the line opens when they have pasted it`}
        text={answerText}
      />
    </Box>
  );
}

/** Red whenever the microphone is open; it says whether anything is recorded. */
function Sign() {
  const { microphone, recording } = useTalent();
  if (microphone !== 'open') return null;
  return (
    <Box
      role="status"
      data-testid="talent-sign"
      sx={{
        px: 2,
        py: recording ? 1 : 0.5,
        bgcolor: recording ? 'error.main' : 'transparent',
        color: recording ? 'error.contrastText' : 'error.main',
        borderBottom: 1,
        borderColor: 'error.main',
        fontWeight: 650,
        fontSize: recording ? 20 : 15,
      }}
    >
      ● {recording ? say`You are being recorded` : say`Your microphone is open: the studio hears you`}
    </Box>
  );
}
