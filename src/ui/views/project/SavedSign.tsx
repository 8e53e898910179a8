'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Chip from '@mui/material/Chip';
import { useCopying } from '@/state/keep/copying';
import { showKeeping } from '@/state/keep/keeping';
import { tryAgain, useSaving } from '@/state/page/saving';
import { withKeys } from '../../commands/keys';
import { useAgo } from '../keep/useAgo';

/** Told to whoever hears the page. */
const heardOnly = {
  position: 'absolute',
  width: 1,
  height: 1,
  overflow: 'hidden',
  clipPath: 'inset(50%)',
  whiteSpace: 'nowrap',
} as const;

/**
 * Everything is stored by itself; this says that it was, and whether the copy in the folder has it. What
 * could not be stored yet is tried again by a click; otherwise the click shows where it is kept.
 */
export function SavedSign() {
  const { pending, failed } = useSaving();
  const copied = useCopiedSign();
  const stored = failed ? say`Not saved: ${pending}` : pending > 0 ? say`Saving …` : say`Saved`;
  const label = failed || !copied ? stored : `${stored} · ${copied.label}`;
  return (
    <>
      {/* Told when it changes; how long ago it was would be told again and again. */}
      <Box role="status" sx={heardOnly}>
        {failed || !copied ? stored : `${stored} · ${copied.told}`}
      </Box>
      <Chip
        variant="outlined"
        size="small"
        label={label}
        color={failed ? 'error' : copied?.wrong ? 'warning' : 'default'}
        title={
          failed
            ? say`${pending === 1 ? say`One change is` : say`${pending} changes are`} not stored yet; it is tried again by itself`
            : withKeys(say`Where it is kept ({key:whereKept})`)
        }
        onClick={failed ? tryAgain : () => showKeeping(true)}
        aria-label={failed ? say`${label}: try again now` : undefined}
        sx={{ height: 28, minWidth: 68 }}
      />
    </>
  );
}

/** What is said of the copy in the folder; null where there is none. */
function useCopiedSign(): { label: string; told: string; wrong: boolean } | null {
  const { status, at, done } = useCopying();
  const ago = useAgo(at);
  switch (status) {
    case 'off':
      return null;
    case 'copied':
      return { label: say`copied ${ago ?? ''}`.trim(), told: say`copied`, wrong: false };
    case 'copying':
      return {
        label: done > 0 ? say`copying ${Math.round(done * 100)} %` : say`copying …`,
        told: say`copying`,
        wrong: false,
      };
    case 'asks':
      return { label: say`copy waits`, told: say`copy waits`, wrong: true };
    case 'failed':
      return { label: say`no copy`, told: say`no copy`, wrong: true };
  }
}
