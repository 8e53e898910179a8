'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import type { CueFault } from '@/core/cues/cueProof';
import { chooseCue, closeCueSheet } from '@/state/cues/cues';
import { proveOpenCues } from '@/state/files/cueExport';
import { notifyError } from '@/state/page/notices';

/** What of the cues a client would send back; each leads to its cue. */
export function CueProofDialog({ onClose }: { onClose: () => void }) {
  const [faults, setFaults] = useState<readonly CueFault[] | null>(null);
  useEffect(() => {
    let wanted = true;
    proveOpenCues().then(
      (found) => wanted && setFaults(found),
      (error: unknown) => {
        notifyError(error);
        onClose();
      },
    );
    return () => {
      wanted = false;
    };
  }, [onClose]);
  const goTo = (id: string) => {
    onClose();
    closeCueSheet();
    chooseCue(id);
  };
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle>{say`Proof of the cues`}</DialogTitle>
      <DialogContent>
        {faults === null && <LinearProgress aria-label={say`Measuring the takes`} />}
        {faults?.length === 0 && (
          <Typography role="status">{say`Every cue is recorded, none is clipped, none runs into the next or beyond its time, and each character’s are alike in level.`}</Typography>
        )}
        {faults && faults.length > 0 && (
          <Box component="ul" aria-label={say`What is not right`} sx={{ listStyle: 'none', m: 0, p: 0 }}>
            {faults.map(({ cue, kind, text }) => (
              <Box
                component="li"
                key={`${cue.id} ${kind}`}
                sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.25 }}
              >
                <Box sx={{ flex: 1 }}>{say`Cue ${cue.number} ${text}.`}</Box>
                <Button
                  size="small"
                  onClick={() => goTo(cue.id)}
                  aria-label={say`Go to cue ${cue.number}`}
                >{say`Go to`}</Button>
              </Box>
            ))}
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={onClose}>{say`Close`}</Button>
      </DialogActions>
    </Dialog>
  );
}
