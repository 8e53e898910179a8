'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import Switch from '@mui/material/Switch';
import Typography from '@mui/material/Typography';
import { useRef, useState } from 'react';
import { showSession, useFar } from '@/state/far/far';
import { recordingsEnding } from '@/core/far/recordingsFile';
import { takeRecordings } from '@/state/far/recordingsFile';
import { closeSession, linkOf, openSession, renewLink, setCleaned } from '@/state/far/session';
import { openOwnMicrophone, talk } from '@/state/far/sound';
import { CopyText } from '../../components/CopyText';
import { ByHand } from './ByHand';
import { Helpers } from './Helpers';
import { PeopleTable } from './PeopleTable';
import { SessionLog } from './SessionLog';
import { WhatIsWrong } from '../../components/WhatIsWrong';

const close = () => showSession(false);

/** The session with talents who are somewhere else: the link, who has come, how the line is. */
export function FarDialog() {
  const shown = useFar((state) => state.shown);
  return (
    <Dialog open={shown} onClose={close} maxWidth="md" fullWidth disableRestoreFocus>
      {shown && <SessionContent />}
    </Dialog>
  );
}

function SessionContent() {
  const { status, secret, unreached, people } = useFar();
  const [more, setMore] = useState<'' | 'log' | 'hand' | 'helpers'>('');
  const picker = useRef<HTMLInputElement>(null);
  const toggle = (what: typeof more) => setMore(more === what ? '' : what);
  const open = status === 'open';
  return (
    <>
      <DialogTitle>{say`Talents far away`}</DialogTitle>
      <DialogContent>
        <Typography
          color="text.secondary"
          sx={{ mb: 2 }}
        >{say`Both sides record; what counts is what is recorded at the talent’s own microphone. It comes by itself, and takes the place of the line’s sound without moving anything.`}</Typography>
        {open && (
          <CopyText label={say`Link for the talent`} text={linkOf(secret)} copy={say`Copy the link`} />
        )}
        {!open && (
          <Button variant="contained" disabled={status === 'opening'} onClick={() => void openSession()}>
            {status === 'opening' ? say`Opening …` : say`Open the session`}
          </Button>
        )}
        {unreached && (
          <WhatIsWrong about="far" severity="warning" sx={{ mt: 2 }}>
            {say`${unreached} Nobody can come in by the link before it does; lines that are open stay open.`}
          </WhatIsWrong>
        )}
        <Box sx={{ mt: 2 }}>
          <PeopleTable people={people} />
        </Box>
        {open && <LineSettings />}
        {more === 'log' && <SessionLog />}
        {more === 'hand' && open && <ByHand />}
        {more === 'helpers' && <Helpers />}
      </DialogContent>
      <DialogActions sx={{ flexWrap: 'wrap' }}>
        <Button
          color="inherit"
          aria-expanded={more === 'log'}
          onClick={() => toggle('log')}
        >{say`Session log`}</Button>
        <Button
          color="inherit"
          aria-expanded={more === 'hand'}
          disabled={!open}
          onClick={() => toggle('hand')}
        >{say`Without a server`}</Button>
        <Button
          color="inherit"
          aria-expanded={more === 'helpers'}
          onClick={() => toggle('helpers')}
        >{say`Helpers`}</Button>
        <Button color="inherit" onClick={() => picker.current?.click()}>{say`File from a talent …`}</Button>
        <input
          ref={picker}
          type="file"
          hidden
          accept={recordingsEnding}
          aria-label={say`File from a talent`}
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = '';
            if (file) void takeRecordings(file);
          }}
        />
        <Button color="inherit" disabled={!open} onClick={() => void renewLink()}>{say`New link`}</Button>
        <Button
          color="inherit"
          disabled={!open}
          onClick={() => closeSession()}
        >{say`Close the session`}</Button>
        <Box sx={{ flex: 1 }} />
        <Button onClick={close}>{say`Done`}</Button>
      </DialogActions>
    </>
  );
}

/** How the line sounds, and whether the studio can be heard on it. */
function LineSettings() {
  const { talking, ownMicrophone, cleaned } = useFar();
  return (
    <Box sx={{ mt: 1, display: 'flex', flexDirection: 'column' }}>
      <FormControlLabel
        control={<Switch checked={ownMicrophone} onChange={(_, on) => void openOwnMicrophone(on)} />}
        label={say`My own microphone is open: I can talk, and it is input 5 for a track of my own`}
      />
      {ownMicrophone && (
        <FormControlLabel
          control={<Switch checked={talking} onChange={(_, on) => talk(on)} />}
          label={say`They hear me while nothing is recorded`}
        />
      )}
      <FormControlLabel
        control={<Switch checked={cleaned} onChange={(_, on) => void setCleaned(on)} />}
        label={say`Somebody has no headphones: take echo and noise out of the line, not out of what is recorded`}
      />
    </Box>
  );
}
