'use client';
import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { toParolaError } from '@/core/base/errors';
import { openHandText } from '@/state/talent/visit';

/** Without a link that leads anywhere: a text from the studio opens a line as well. */
export function TextStep() {
  const [text, setText] = useState('');
  const [failure, setFailure] = useState('');
  const open = () => openHandText(text).catch((thrown: unknown) => setFailure(toParolaError(thrown).message));
  return (
    <>
      <Typography variant="h1" sx={{ mb: 1 }}>{say`This link leads to no session`}</Typography>
      <Typography
        sx={{ mb: 3 }}
      >{say`Open the link of the studio once more, all of it, or ask for a new one. If the studio has sent you a text instead, paste it here.`}</Typography>
      <TextField
        label={say`Text from the studio`}
        multiline
        minRows={4}
        maxRows={8}
        fullWidth
        value={text}
        error={failure !== ''}
        helperText={failure || ' '}
        onChange={(event) => {
          setText(event.target.value);
          setFailure('');
        }}
      />
      <Button
        variant="contained"
        size="large"
        disabled={text.trim() === ''}
        onClick={() => void open()}
        sx={{ mt: 2 }}
      >{say`Go on`}</Button>
    </>
  );
}
