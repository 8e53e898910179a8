'use client';
import Chip from '@mui/material/Chip';
import { useSaving } from '@/state/page/saving';

/** Everything is stored by itself; this says that it was. */
export function SavedSign() {
  const { pending, failed } = useSaving();
  const label = failed ? 'Not saved' : pending > 0 ? 'Saving …' : 'Saved';
  return (
    <Chip
      variant="outlined"
      size="small"
      label={label}
      color={failed ? 'error' : 'default'}
      role="status"
      sx={{ height: 28, minWidth: 68 }}
    />
  );
}
