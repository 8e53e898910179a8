'use client';
import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import { useEffect } from 'react';
import { keepOffline, takeUpdate, useUpdate } from '@/state/page/offline';
import { useJob } from '@/state/page/jobs';
import { useSaving } from '@/state/page/saving';

/**
 * A new version is offered; it takes over when it is asked to, and never while there is something to lose.
 */
export function UpdateBanner({ busy }: { busy: boolean }) {
  const waiting = useUpdate((state) => state.waiting !== null);
  const working = useJob((state) => state.job !== null);
  const unsaved = useSaving((state) => state.pending > 0);
  useEffect(keepOffline, []);
  if (!waiting) return null;
  const held = busy || working || unsaved;
  return (
    <Alert
      severity="info"
      square
      role="status"
      action={
        <Button color="inherit" size="small" disabled={held} onClick={takeUpdate}>{say`Use it now`}</Button>
      }
    >{say`A new version of Parola is here. It takes over when you say so${held ? say`, once nothing is under way` : ''}.`}</Alert>
  );
}
