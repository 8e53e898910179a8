'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { toParolaError } from '@/core/base/errors';
import { answerByHand, offerByHand } from '@/state/far/session';
import { notify } from '@/state/page/notices';
import { CopyText } from '../../components/CopyText';

/** Two texts that people send each other, where no server is between: one there, one back. */
export function ByHand() {
  const [offer, setOffer] = useState('');
  const [answer, setAnswer] = useState('');
  const [failure, setFailure] = useState('');
  const make = async () => {
    const text = await offerByHand().catch((thrown: unknown) => {
      setFailure(toParolaError(thrown).message);
      return '';
    });
    if (text === null) notify('info', say`There are four talents already. Send one of them away first.`);
    else setOffer(text);
  };
  const take = async () => {
    try {
      await answerByHand(answer);
      setOffer('');
      setAnswer('');
    } catch (thrown) {
      setFailure(toParolaError(thrown).message);
    }
  };
  return (
    <Box component="section" aria-label={say`Without a server`} sx={{ mt: 2 }}>
      <Typography
        color="text.secondary"
        sx={{ mb: 1.5 }}
      >{say`The talent opens Parola on their own machine, at /talent, and pastes your text there; you paste theirs here. Each text is for one talent and holds for half an hour.`}</Typography>
      {offer === '' ? (
        <Button variant="outlined" onClick={() => void make()}>{say`Make a text for a talent`}</Button>
      ) : (
        <>
          <CopyText label={say`Text for the talent`} text={offer} />
          <Box sx={{ display: 'flex', gap: 1, mt: 2, alignItems: 'start' }}>
            <TextField
              label={say`Text that came back`}
              size="small"
              fullWidth
              value={answer}
              error={failure !== ''}
              helperText={failure || ' '}
              onChange={(event) => {
                setAnswer(event.target.value);
                setFailure('');
              }}
            />
            <Button
              variant="contained"
              disabled={answer.trim() === ''}
              onClick={() => void take()}
            >{say`Open the line`}</Button>
          </Box>
        </>
      )}
    </Box>
  );
}
