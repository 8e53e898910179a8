'use client';
import Chip from '@mui/material/Chip';
import { tryAgain, useSaving } from '@/state/page/saving';

/**
 * Everything is stored by itself; this says that it was. What could not be stored yet is tried again by a
 * click.
 */
export function SavedSign() {
  const { pending, failed } = useSaving();
  const label = failed ? `Not saved: ${pending}` : pending > 0 ? 'Saving …' : 'Saved';
  return (
    <Chip
      variant="outlined"
      size="small"
      label={label}
      color={failed ? 'error' : 'default'}
      role="status"
      title={
        failed
          ? `${pending === 1 ? 'One change is' : `${pending} changes are`} not stored yet; it is tried again by itself`
          : undefined
      }
      onClick={failed ? tryAgain : undefined}
      aria-label={failed ? `${label}: try again now` : undefined}
      sx={{ height: 28, minWidth: 68 }}
    />
  );
}
