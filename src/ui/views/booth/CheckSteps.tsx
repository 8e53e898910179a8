'use client';
import { say } from '@/texts/say';
import CheckCircleOutlined from '@mui/icons-material/CheckCircleOutlined';
import ErrorOutlined from '@mui/icons-material/ErrorOutlined';
import InfoOutlined from '@mui/icons-material/InfoOutlined';
import Box from '@mui/material/Box';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useCallback, useState } from 'react';
import type { Advice } from '@/core/recording/advice';
import { checkSteps } from '@/state/recording/checking';
import { serif } from '../../theme/theme';
import { useTicks } from '../../hooks/useTicks';

/**
 * The steps of a sound check, and how far the one that runs has come, which began at `since` of the page's
 * clock.
 */
export function CheckStepList({ phase, since }: { phase: string; since: number }) {
  return (
    <>
      <Box component="ol" sx={{ listStyle: 'none', p: 0, mt: 2.5 }}>
        {checkSteps.map(({ id, title, text, seconds }, index) => {
          const now = phase === id;
          return (
            <Box
              component="li"
              key={id}
              aria-current={now ? 'step' : undefined}
              sx={{
                p: 1.5,
                mb: 1,
                borderRadius: 2,
                borderLeft: 3,
                borderColor: now ? 'error.main' : 'transparent',
                bgcolor: now ? 'page.wash' : undefined,
              }}
            >
              <Typography sx={{ fontFamily: serif, fontSize: now ? 24 : 18, fontWeight: 650 }}>
                {index + 1}. {title}
                <Box component="span" sx={{ color: 'text.secondary', fontWeight: 400, fontSize: 15, ml: 1 }}>
                  {seconds} s
                </Box>
              </Typography>
              <Typography color="text.secondary">{text}</Typography>
              {now && <StepProgress since={since} seconds={seconds} />}
            </Box>
          );
        })}
      </Box>
      {phase === 'measuring' && <Typography role="status">{say`Measuring …`}</Typography>}
    </>
  );
}

function StepProgress({ since, seconds }: { since: number; seconds: number }) {
  const [done, setDone] = useState(0);
  const show = useCallback(
    () => setDone(Math.min(1, (performance.now() / 1000 - since) / seconds)),
    [since, seconds],
  );
  useTicks(100, true, show);
  return (
    <LinearProgress
      variant="determinate"
      value={done * 100}
      color="error"
      sx={{ mt: 1 }}
      aria-label={say`This step`}
    />
  );
}

export const adviceIcons = {
  must: <ErrorOutlined color="error" fontSize="small" aria-label={say`Has to change:`} />,
  better: <InfoOutlined color="warning" fontSize="small" aria-label={say`Would help:`} />,
  fine: <CheckCircleOutlined color="success" fontSize="small" aria-label={say`Fine:`} />,
};

export function AdviceList({ advice, label }: { advice: Advice[]; label: string }) {
  return (
    <Box component="ul" aria-label={label} sx={{ listStyle: 'none', p: 0, my: 1 }}>
      {advice.map(({ weight, text }) => (
        <Box component="li" key={text} sx={{ display: 'flex', gap: 1, py: 0.5 }}>
          {adviceIcons[weight]}
          <span>{text}</span>
        </Box>
      ))}
    </Box>
  );
}
