'use client';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useEffect, useState, type ReactNode } from 'react';
import { openLink } from '@/state/talent/visit';
import { useTalent } from '@/state/talent/talent';
import { JobBar } from '../../components/JobBar';
import { ThemeToggle } from '../../components/ThemeToggle';
import { serif } from '../../theme/theme';
import { LeftStep } from './LeftStep';
import { MicrophoneStep } from './MicrophoneStep';
import { SessionStep } from './SessionStep';
import { TextStep } from './TextStep';
import { WelcomeStep } from './WelcomeStep';

/**
 * The page of somebody who is to be recorded where they are: nothing to install, no account, one thing at a
 * time.
 */
export function TalentView() {
  return (
    <>
      <Step />
      <JobBar />
    </>
  );
}

function Step() {
  const step = useTalent((state) => state.step);
  const [looked, setLooked] = useState(false);
  useEffect(() => {
    void openLink(location.hash, location.search).finally(() => setLooked(true));
  }, []);
  if (!looked) return null;
  switch (step) {
    case 'welcome':
      return (
        <Paper>
          <WelcomeStep />
        </Paper>
      );
    case 'microphone':
      return (
        <Paper>
          <MicrophoneStep />
        </Paper>
      );
    case 'session':
      return <SessionStep />;
    case 'left':
      return (
        <Paper>
          <LeftStep />
        </Paper>
      );
    case 'no-link':
      return (
        <Paper>
          <TextStep />
        </Paper>
      );
  }
}

function Paper({ children }: { children: ReactNode }) {
  return (
    <Box component="main" sx={{ maxWidth: 720, mx: 'auto', px: 3, py: 4 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', mb: 4 }}>
        <Typography component="span" sx={{ fontFamily: serif, fontWeight: 700, fontSize: 22, flex: 1 }}>
          parola
          <Box component="span" sx={{ color: 'error.main' }}>
            .
          </Box>
        </Typography>
        <ThemeToggle />
      </Box>
      {children}
    </Box>
  );
}
