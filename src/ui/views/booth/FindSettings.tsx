'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { number, ValidationError } from 'yup';
import { findingKinds } from '@/core/speech/findings';
import { findingNames, setFindingSettings, useFinding } from '@/state/finds/finding';

/** What is looked for, from what size on, and what is done about it. */
export function FindSettings() {
  const settings = useFinding((state) => state.settings);
  const toggle = (kind: (typeof findingKinds)[number], on: boolean) =>
    setFindingSettings({
      kinds: findingKinds.filter((one) => (one === kind ? on : settings.kinds.includes(one))),
    });
  return (
    <Box
      role="group"
      aria-label={say`What to look for`}
      sx={{
        p: 1.5,
        borderBottom: 1,
        borderColor: 'divider',
        maxHeight: '55%',
        overflowY: 'auto',
        flexShrink: 0,
      }}
    >
      {findingKinds.map((kind) => (
        <FormControlLabel
          key={kind}
          sx={{ display: 'flex', '& .MuiTypography-root': { fontSize: 14 }, my: -0.75 }}
          control={
            <Checkbox
              size="small"
              checked={settings.kinds.includes(kind)}
              onChange={(_, on) => toggle(kind, on)}
            />
          }
          label={findingNames[kind]}
        />
      ))}
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1.5, mt: 1.5 }}>
        <Figure name="longestPause" label={say`Longest pause, s`} least={0.3} most={60} />
        <Figure name="shortestPause" label={say`Shortest pause, s`} least={0.16} most={2} />
        <Figure name="pauseTo" label={say`Pauses become, s`} least={0.05} most={10} />
        <Figure name="levelOffDb" label={say`Level off by, dB`} least={1} most={20} />
        <Figure name="breathOverDb" label={say`Breath over room, dB`} least={6} most={40} />
        <Figure name="breathLowerDb" label={say`Breath softer, dB`} least={1} most={40} />
      </Box>
      <TextField
        select
        size="small"
        fullWidth
        label={say`Loud breaths`}
        value={settings.breaths}
        onChange={(event) => setFindingSettings({ breaths: event.target.value as 'lower' | 'patch' })}
        sx={{ mt: 1.5 }}
      >
        <MenuItem value="lower">{say`are made softer`}</MenuItem>
        <MenuItem value="patch">{say`become room tone`}</MenuItem>
      </TextField>
    </Box>
  );
}

interface FigureProps {
  name: 'longestPause' | 'shortestPause' | 'pauseTo' | 'levelOffDb' | 'breathOverDb' | 'breathLowerDb';
  label: string;
  least: number;
  most: number;
}

function Figure({ name, label, least, most }: FigureProps) {
  const stored = useFinding((state) => state.settings[name]);
  const [text, setText] = useState(String(stored));
  const [error, setError] = useState('');
  const keep = () => {
    const schema = number()
      .typeError(say`A number, please.`)
      .min(least, say`At least ${least}.`)
      .max(most, say`At most ${most}.`)
      .required();
    try {
      setFindingSettings({ [name]: schema.validateSync(text.replace(',', '.')) });
      setError('');
    } catch (thrown) {
      setError(thrown instanceof ValidationError ? thrown.errors[0] : say`A number, please.`);
    }
  };
  return (
    <TextField
      size="small"
      label={label}
      value={text}
      error={error !== ''}
      helperText={error || undefined}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && keep()}
      slotProps={{ htmlInput: { inputMode: 'decimal' } }}
    />
  );
}
