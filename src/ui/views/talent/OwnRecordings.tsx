'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { formatTime } from '@/core/base/units';
import { saveForStudio } from '@/state/talent/recordingsFile';
import { useTalent, type OwnRecording } from '@/state/talent/talent';

/** What was recorded in this browser, and how much of it has reached the studio. */
export function OwnRecordings() {
  const own = useTalent((state) => state.own);
  const unsent = own.some(({ kept, recording }) => !kept && recording.closed);
  if (own.length === 0) return null;
  return (
    <>
      <Box component="ul" aria-label={say`Recorded here`} sx={{ listStyle: 'none', p: 0, m: 0 }}>
        {[...own].reverse().map((one) => (
          <Row key={one.recording.id} {...one} />
        ))}
      </Box>
      {unsent && (
        <Button
          size="small"
          variant="outlined"
          onClick={() => void saveForStudio()}
          sx={{ mt: 1 }}
        >{say`Save a file for the studio`}</Button>
      )}
    </>
  );
}

function Row({ recording, name, sentFrames, kept }: OwnRecording) {
  const { frames, rateHz, closed } = recording;
  const share = frames > 0 ? Math.min(1, sentFrames / frames) : 0;
  const said = kept
    ? say`with the studio`
    : closed
      ? say`${Math.floor(share * 100)} % sent`
      : say`recording · ${Math.floor(share * 100)} % sent`;
  return (
    <Box component="li" sx={{ py: 0.75 }}>
      <Box sx={{ display: 'flex', gap: 2, fontVariantNumeric: 'tabular-nums' }}>
        <Typography component="span" sx={{ flex: 1 }} noWrap>
          {name}
        </Typography>
        <span>{formatTime(frames / rateHz)}</span>
      </Box>
      <Typography variant="body2" color={kept ? 'success.main' : 'text.secondary'}>
        {said}
      </Typography>
      {!kept && <LinearProgress variant="determinate" value={share * 100} aria-label={say`${name}, sent`} />}
    </Box>
  );
}
