'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { notifyError } from '@/state/page/notices';
import { removeKept } from '@/state/talent/ownRecordings';
import { useTalent } from '@/state/talent/talent';
import { comeBack } from '@/state/talent/visit';
import { OwnRecordings } from './OwnRecordings';

/** After leaving: the microphone is closed; what was recorded is still here. */
export function LeftStep() {
  const { ended, own } = useTalent();
  const unsent = own.some(({ kept }) => !kept);
  return (
    <>
      <Typography variant="h1" sx={{ mb: 1 }}>{say`You have left`}</Typography>
      <Typography sx={{ mb: 2 }}>
        {say`${ended} Your microphone is closed. ${
          unsent
            ? say`Some of what you recorded has not reached the studio: come back with the same link, today or tomorrow, and it is sent by itself.`
            : own.length > 0
              ? say`Everything you recorded is with the studio.`
              : ''
        }`}
      </Typography>
      <OwnRecordings />
      <Box sx={{ display: 'flex', gap: 1, mt: 3 }}>
        <Button variant="contained" onClick={comeBack}>{say`Come back`}</Button>
        {own.some(({ kept }) => kept) && (
          <Button
            color="inherit"
            onClick={() => void removeKept().catch(notifyError)}
          >{say`Remove what the studio has from this browser`}</Button>
        )}
      </Box>
    </>
  );
}
