'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { useTalent } from '@/state/talent/talent';
import { setWeather } from '@/state/talent/visit';

/** The network that a guest who practises is behind: how late, how uneven, how much of it is lost. */
export function PracticeNetwork() {
  const weather = useTalent((state) => state.weather);
  if (!weather) return null;
  return (
    <Box component="section" aria-label={say`The network that is simulated`}>
      <Typography
        variant="body2"
        color="text.secondary"
        sx={{ mb: 1 }}
      >{say`A guest who practises, behind a network of`}</Typography>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Field
          label={say`Delay, ms`}
          value={weather.delayMs}
          most={1000}
          onChange={(delayMs) => setWeather({ delayMs })}
        />
        <Field
          label={say`Jitter, ms`}
          value={weather.jitterMs}
          most={1000}
          onChange={(jitterMs) => setWeather({ jitterMs })}
        />
        <Field
          label={say`Loss, %`}
          value={weather.loss * 100}
          most={90}
          onChange={(share) => setWeather({ loss: share / 100 })}
        />
      </Box>
    </Box>
  );
}

interface Props {
  label: string;
  value: number;
  most: number;
  onChange: (value: number) => void;
}

function Field({ label, value, most, onChange }: Props) {
  const [text, setText] = useState(String(value));
  const number = Number(text.replace(',', '.'));
  const wrong = text.trim() === '' || !(number >= 0 && number <= most);
  return (
    <TextField
      label={label}
      size="small"
      value={text}
      error={wrong}
      helperText={wrong ? say`0 to ${most}` : undefined}
      onChange={(event) => {
        setText(event.target.value);
        const next = Number(event.target.value.replace(',', '.'));
        if (event.target.value.trim() !== '' && next >= 0 && next <= most) onChange(next);
      }}
    />
  );
}
