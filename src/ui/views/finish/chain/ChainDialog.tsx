import { say } from '@/texts/say';
import { yupResolver } from '@hookform/resolvers/yup';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { useDropzone } from 'react-dropzone';
import { object, string } from 'yup';
import { builtInChains } from '@/core/chain/builtIn';
import type { SavedChain } from '@/core/chain/chainFile';
import { stepNames } from '@/core/chain/stepText';
import type { Timeline } from '@/core/timeline/timeline';
import {
  forgetChain,
  keepChainOf,
  openChainFile,
  saveChainFile,
  takeChain,
  useChainLibrary,
} from '@/state/chain/chainLibrary';
import { chainOf, chooseChains, emptyChain, setChain } from '@/state/chain/chains';
import { otherVoices, shareChain, type OtherVoice } from '@/state/chain/sharing';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';

/** Saved chains: taken, kept, handed on as files, and used on other voices. */
export function ChainDialog({ voice, timeline }: { voice: string; timeline: Timeline }) {
  const { own } = useChainLibrary();
  const readOnly = useProject((state) => state.readOnly);
  const partId = usePart((state) => state.id) ?? '';
  const [view, setView] = useState<'all' | 'keep' | 'share'>('all');
  const chain = chainOf(timeline, voice);
  const name = timeline.tracks.find(({ id }) => id === voice)?.name ?? '';
  const close = () => chooseChains(false);
  const { getInputProps, open } = useDropzone({
    accept: { 'application/json': ['.json'] },
    multiple: false,
    noClick: true,
    noKeyboard: true,
    onDropAccepted: ([file]) => void openChainFile(file),
  });
  const take = (saved: SavedChain) => {
    close();
    void takeChain(voice, saved);
  };
  const has = chain.steps.length > 0;
  if (view === 'keep') return <KeepChain voice={voice} initial={chain.name} onClose={() => setView('all')} />;
  if (view === 'share') return <ShareChain from={{ partId, voice }} onClose={close} />;
  return (
    <Dialog
      open
      onClose={close}
      fullWidth
      maxWidth="sm"
      aria-labelledby="chains-title"
      transitionDuration={0}
    >
      <DialogTitle id="chains-title">{say`Chains for ${name}`}</DialogTitle>
      <DialogContent sx={{ pb: 0 }}>
        <input {...getInputProps()} aria-label={say`A chain file`} />
        {[...own, ...builtInChains].map((saved, index) => (
          <Box
            key={saved.name}
            sx={{
              display: 'flex',
              alignItems: 'flex-start',
              gap: 1.5,
              py: 1,
              borderTop: index === 0 ? 0 : 1,
              borderColor: 'divider',
            }}
          >
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Box sx={{ fontWeight: 700 }}>{saved.name}</Box>
              <Typography variant="body2" color="text.secondary">
                {saved.note || saved.steps.map(({ kind }) => stepNames[kind]).join(', ')}
              </Typography>
            </Box>
            {own.includes(saved) && (
              <Button
                size="small"
                color="inherit"
                onClick={() => void forgetChain(saved.name)}
              >{say`Forget`}</Button>
            )}
            <Button
              size="small"
              color="inherit"
              onClick={() => saveChainFile(saved)}
            >{say`Save as a file`}</Button>
            <Button
              size="small"
              variant="outlined"
              disabled={readOnly}
              onClick={() => take(saved)}
              aria-label={say`Use ${saved.name}`}
            >{say`Use`}</Button>
          </Box>
        ))}
      </DialogContent>
      <DialogActions sx={{ flexWrap: 'wrap', justifyContent: 'flex-start' }}>
        <Button disabled={!has} onClick={() => setView('keep')}>{say`Keep this voice’s chain …`}</Button>
        <Button
          disabled={!has}
          onClick={() => saveChainFile({ ...chain, note: '' })}
        >{say`Save it as a file`}</Button>
        <Button onClick={open}>{say`Open a file …`}</Button>
        <Button
          disabled={!has || readOnly}
          onClick={() => setView('share')}
        >{say`Use it on other voices …`}</Button>
        <Button
          color="inherit"
          disabled={!has || readOnly}
          onClick={() => {
            setChain(voice, emptyChain, say`no chain`);
            close();
          }}
        >{say`Take it away`}</Button>
        <Box sx={{ flex: 1 }} />
        <Button color="inherit" onClick={close}>{say`Close`}</Button>
      </DialogActions>
    </Dialog>
  );
}

const keepSchema = object({
  name: string()
    .trim()
    .required(say`Give the chain a name.`)
    .max(60, say`A name of a chain has at most 60 letters.`),
  note: string()
    .trim()
    .default('')
    .max(300, say`What a chain is for takes at most 300 letters.`),
});

function KeepChain({ voice, initial, onClose }: { voice: string; initial: string; onClose: () => void }) {
  const { register, handleSubmit, formState } = useForm({
    resolver: yupResolver(keepSchema),
    defaultValues: { name: initial, note: '' },
  });
  const { errors } = formState;
  const keep = handleSubmit(({ name, note }) => {
    void keepChainOf(voice, name, note);
    onClose();
  });
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="xs"
      aria-labelledby="keep-title"
      transitionDuration={0}
    >
      <form onSubmit={(event) => void keep(event)}>
        <DialogTitle id="keep-title">{say`Keep this chain`}</DialogTitle>
        <DialogContent>
          <TextField
            {...register('name')}
            label={say`Name`}
            autoFocus
            fullWidth
            margin="dense"
            error={!!errors.name}
            helperText={errors.name?.message ?? ' '}
          />
          <TextField
            {...register('note')}
            label={say`What it is for`}
            fullWidth
            margin="dense"
            error={!!errors.note}
            helperText={errors.note?.message ?? ' '}
          />
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>{say`Cancel`}</Button>
          <Button type="submit" variant="contained">{say`Keep`}</Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

function ShareChain({ from, onClose }: { from: OtherVoice; onClose: () => void }) {
  const voices = otherVoices(from);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const toggle = (index: number) =>
    setChosen(
      (before) =>
        new Set(before.has(index) ? [...before].filter((one) => one !== index) : [...before, index]),
    );
  const all = chosen.size === voices.length;
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="xs"
      aria-labelledby="share-title"
      transitionDuration={0}
    >
      <DialogTitle id="share-title">{say`Use this chain on`}</DialogTitle>
      <DialogContent>
        {voices.length === 0 && say`There is no other voice in this project.`}
        {voices.length > 1 && (
          <FormControlLabel
            control={
              <Checkbox checked={all} onChange={() => setChosen(all ? new Set() : new Set(voices.keys()))} />
            }
            label={say`All of them`}
          />
        )}
        {voices.map(({ part, name, partId, voice }, index) => (
          <Box key={`${partId} ${voice}`}>
            <FormControlLabel
              control={<Checkbox size="small" checked={chosen.has(index)} onChange={() => toggle(index)} />}
              label={`${part}: ${name}`}
            />
          </Box>
        ))}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>{say`Cancel`}</Button>
        <Button
          variant="contained"
          disabled={chosen.size === 0}
          onClick={() => {
            shareChain(
              from,
              voices.filter((_, index) => chosen.has(index)),
            );
            onClose();
          }}
        >{say`Use it`}</Button>
      </DialogActions>
    </Dialog>
  );
}
