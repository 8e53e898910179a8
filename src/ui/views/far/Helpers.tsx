'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import { toParolaError } from '@/core/base/errors';
import { readHelpers, writeHelpers } from '@/state/far/helpers';
import { notify } from '@/state/page/notices';

/**
 * Servers of the studio's own that help two machines to find each other; empty unless somebody fills it in.
 */
export function Helpers() {
  const [urls, setUrls] = useState('');
  const [username, setUsername] = useState('');
  const [credential, setCredential] = useState('');
  const [failure, setFailure] = useState('');
  useEffect(() => {
    void readHelpers().then(
      (known) => {
        setUrls(known.map((one) => one.urls).join(' '));
        setUsername(known.find((one) => one.username)?.username ?? '');
        setCredential(known.find((one) => one.credential)?.credential ?? '');
      },
      () => undefined,
    );
  }, []);
  const keep = async () => {
    const addresses = urls.split(/[\s,]+/).filter(Boolean);
    const helpers = addresses.map((address) => ({
      urls: address,
      ...(address.startsWith('turn') && { username, credential }),
    }));
    try {
      await writeHelpers(helpers);
      setFailure('');
      notify('success', say`Kept. Lines that are opened from now on use it.`);
    } catch (thrown) {
      setFailure(toParolaError(thrown).message);
    }
  };
  return (
    <Box
      component="section"
      aria-label={say`Helpers`}
      sx={{ mt: 2, display: 'flex', flexDirection: 'column', gap: 1.5 }}
    >
      <Typography color="text.secondary">{say`Addresses of STUN and TURN servers of your own, with blanks between. None is asked unless you name it here; the talent’s page is told of them when the line is offered. How to set one up stands in docs/remote.md.`}</Typography>
      <TextField
        label={say`Addresses`}
        size="small"
        value={urls}
        error={failure !== ''}
        helperText={failure || say`For example: stun:turn.example.org:3478 turn:turn.example.org:3478`}
        onChange={(event) => setUrls(event.target.value)}
      />
      <Box sx={{ display: 'flex', gap: 1.5 }}>
        <TextField
          label={say`Name at the TURN server`}
          size="small"
          fullWidth
          value={username}
          onChange={(event) => setUsername(event.target.value)}
        />
        <TextField
          label={say`Password there`}
          size="small"
          type="password"
          fullWidth
          value={credential}
          onChange={(event) => setCredential(event.target.value)}
        />
        <Button variant="outlined" onClick={() => void keep()} sx={{ flexShrink: 0 }}>{say`Keep`}</Button>
      </Box>
    </Box>
  );
}
