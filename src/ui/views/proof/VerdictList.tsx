'use client';
import Box from '@mui/material/Box';
import { measureLabels } from '@/core/specs/measures';
import type { Verdict } from '@/core/specs/verdicts';

/** Every limit of the open part, faults first; each sentence says limit, value and distance. */
export function VerdictList({ verdicts, clippedSamples }: { verdicts: Verdict[]; clippedSamples: number }) {
  const sorted = [...verdicts].sort((a, b) => Number(a.passes) - Number(b.passes));
  return (
    <Box component="ul" sx={{ listStyle: 'none', m: 0, mt: 1, p: 0 }} aria-label="Verdicts">
      {clippedSamples > 0 && (
        <Row
          word="Look"
          colour="warning.main"
          text={`${clippedSamples} samples are at full scale: a word is clipped. It cannot be repaired; read it again.`}
        />
      )}
      {sorted.map(({ measure, passes, message }) => (
        <Row
          key={measure}
          word={passes ? 'Passes' : 'Fault'}
          colour={passes ? 'success.main' : 'error.main'}
          text={message}
          label={measureLabels[measure].name}
        />
      ))}
    </Box>
  );
}

function Row({ word, colour, text, label }: { word: string; colour: string; text: string; label?: string }) {
  return (
    <Box
      component="li"
      aria-label={label}
      sx={{ display: 'flex', gap: 2, py: 1, borderBottom: 1, borderColor: 'divider' }}
    >
      <Box component="span" sx={{ width: 64, fontWeight: 700, color: colour }}>
        {word}
      </Box>
      <span>{text}</span>
    </Box>
  );
}
