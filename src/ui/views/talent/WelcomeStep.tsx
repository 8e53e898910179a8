'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState, type FormEvent } from 'react';
import { consent } from '@/state/talent/visit';

const steps = [
  say`You choose your microphone, and check how loud you are.`,
  say`The studio lets you in. You hear each other as on the telephone: wear headphones.`,
  say`You read, the studio does everything else. A red sign shows when you are being recorded.`,
  say`What counts is what this browser records here, in full quality. It is sent by itself while you read and afterwards; if the line breaks, nothing is lost.`,
];

/** What will happen, who it is, and whether they may be recorded. */
export function WelcomeStep() {
  const [name, setName] = useState('');
  const [agreed, setAgreed] = useState(false);
  const [asked, setAsked] = useState(false);
  const noName = name.trim() === '';
  const go = (event: FormEvent) => {
    event.preventDefault();
    setAsked(true);
    if (!noName && agreed) void consent(name);
  };
  return (
    <Box component="form" onSubmit={go} noValidate>
      <Typography variant="h1" sx={{ mb: 2 }}>{say`You are asked to a recording`}</Typography>
      <Box component="ol" sx={{ pl: 3, mb: 3, '& li': { mb: 1 } }}>
        {steps.map((step) => (
          <li key={step}>{step}</li>
        ))}
      </Box>
      <TextField
        label={say`Your name, as the studio knows you`}
        value={name}
        autoFocus
        fullWidth
        error={asked && noName}
        helperText={asked && noName ? say`Write your name, so that the studio knows whom to let in.` : ' '}
        onChange={(event) => setName(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 60 } }}
      />
      <FormControlLabel
        control={<Checkbox checked={agreed} onChange={(_, on) => setAgreed(on)} />}
        label={say`I agree to be recorded by the studio that sent me this link. I can leave at any time; that closes the microphone.`}
      />
      {asked && !agreed && (
        <Box
          role="alert"
          sx={{ color: 'error.main', fontSize: 14 }}
        >{say`Without your consent nothing is recorded. Tick it to go on, or close this page.`}</Box>
      )}
      <Box sx={{ mt: 3 }}>
        <Button type="submit" variant="contained" size="large">{say`Go on to the microphone`}</Button>
      </Box>
    </Box>
  );
}
