'use client';
import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect } from 'react';
import { callOffCheck, checkTalent, useTalentCheck } from '@/state/talent/check';
import { AdviceList, CheckStepList } from '../booth/CheckSteps';

/** Be silent, read, read loud: then what to do, in numbers, as in the studio. */
export function TalentCheck() {
  const { phase, since, advice, failure } = useTalentCheck();
  const running = phase !== 'ready' && phase !== 'done';
  useEffect(() => callOffCheck, []);
  return (
    <Box sx={{ mt: 2 }}>
      {running && <CheckStepList phase={phase} since={since} />}
      {phase === 'done' && <AdviceList advice={[...advice]} label={say`What to do`} />}
      {failure && <Alert severity="warning">{failure}</Alert>}
      {running ? (
        <Button color="inherit" onClick={callOffCheck}>{say`Call off`}</Button>
      ) : (
        <Button variant="outlined" onClick={() => void checkTalent()}>
          {phase === 'done' ? say`Check again` : say`Sound check`}
        </Button>
      )}
    </Box>
  );
}
