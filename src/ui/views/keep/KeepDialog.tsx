'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import { showKeeping, useKeeping } from '@/state/keep/keeping';
import { serif } from '../../theme/theme';
import { BackupSection } from './BackupSection';
import { CopySection } from './CopySection';
import { SpaceSection } from './SpaceSection';

const close = () => showKeeping(false);

/** Where the open project is kept: in this browser, in a folder beside it, in project files. */
export function KeepDialog() {
  const { shown } = useKeeping();
  return (
    <Dialog open={shown} onClose={close} maxWidth="sm" fullWidth disableRestoreFocus>
      <DialogTitle>{say`Where it is kept`}</DialogTitle>
      <DialogContent>
        <Section title={say`In this browser`}>
          <SpaceSection />
        </Section>
        <Section title={say`A copy in a folder`}>
          <CopySection />
        </Section>
        <Section title={say`Project files`}>
          <BackupSection />
        </Section>
      </DialogContent>
      <DialogActions>
        <Button onClick={close} autoFocus>{say`Done`}</Button>
      </DialogActions>
    </Dialog>
  );
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box component="section" sx={{ mb: 3 }}>
      <Typography component="h3" sx={{ fontFamily: serif, fontWeight: 600, fontSize: 17, mb: 0.5 }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}
