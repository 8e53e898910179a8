'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useEffect, useRef } from 'react';
import { followPicture } from '@/state/talent/film';
import { useTalent } from '@/state/talent/talent';
import { serif } from '../../theme/theme';
import { CountIn } from './CountIn';

/**
 * The picture, silent, in step with what is heard; on it the line to speak, and the one that sweeps towards
 * it.
 */
export function TalentPicture() {
  const film = useTalent((state) => state.film);
  const cue = useTalent((state) => state.moving?.cue ?? null);
  if (!film) return null;
  return (
    <Box
      sx={{ flex: 1, minHeight: 0, bgcolor: '#000', color: '#fff', position: 'relative', overflow: 'hidden' }}
    >
      {film.address ? (
        <Picture address={film.address} />
      ) : (
        <Box sx={{ position: 'absolute', inset: '45% 20% auto' }}>
          <Typography
            sx={{ mb: 1 }}
          >{say`The picture is coming: ${Math.floor((100 * film.here) / film.bytes)} %`}</Typography>
          <LinearProgress
            variant="determinate"
            value={(100 * film.here) / film.bytes}
            aria-label={say`The picture`}
          />
        </Box>
      )}
      {cue && (
        <Box
          data-testid="talent-cue"
          sx={{
            position: 'absolute',
            left: '6%',
            right: '6%',
            bottom: '6%',
            textAlign: 'center',
            fontFamily: serif,
            fontSize: 'clamp(20px, 3vw, 40px)',
            lineHeight: 1.32,
            textShadow: '0 1px 4px #000, 0 0 2px #000',
          }}
        >
          <Box sx={{ fontStyle: 'italic', fontSize: '0.65em' }}>
            {cue.number} {cue.character}
          </Box>
          {cue.text}
        </Box>
      )}
      <CountIn onPicture />
    </Box>
  );
}

function Picture({ address }: { address: string }) {
  const ref = useRef<HTMLVideoElement>(null);
  useEffect(() => (ref.current ? followPicture(ref.current) : undefined), []);
  return (
    <video
      ref={ref}
      data-testid="talent-film"
      src={address}
      muted
      playsInline
      preload="auto"
      style={{ display: 'block', width: '100%', height: '100%', objectFit: 'contain' }}
    />
  );
}
