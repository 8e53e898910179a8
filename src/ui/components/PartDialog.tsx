'use client';
import { say } from '@/texts/say';
import Search from '@mui/icons-material/Search';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import InputAdornment from '@mui/material/InputAdornment';
import ListItemButton from '@mui/material/ListItemButton';
import ListItemText from '@mui/material/ListItemText';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { formatTime } from '@/core/base/units';
import { useProject } from '@/state/project/openProject';
import { VirtualList } from './VirtualList';

interface Props {
  title: string;
  /** A part that cannot be chosen. */
  without: string | null;
  onChoose: (partId: string) => void;
  onClose: () => void;
}

/** Chooses a part of the project by its number or name; Enter takes the first that is found. */
export function PartDialog({ title, without, onChoose, onClose }: Props) {
  const [search, setSearch] = useState('');
  const parts = useProject((state) => state.parts);
  const rate = useProject((state) => state.project?.rateHz ?? 48_000);
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = parts
    .map((part, index) => ({ ...part, number: index + 1 }))
    .filter(({ id, name, number }) => {
      const text = `${number} ${name}`.toLowerCase();
      return id !== without && words.every((word) => text.includes(word));
    });
  const choose = (id: string) => {
    onClose();
    onChoose(id);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      maxWidth="xs"
      fullWidth
      aria-labelledby="part-dialog-title"
      transitionDuration={0}
    >
      <DialogTitle id="part-dialog-title">{title}</DialogTitle>
      <DialogContent>
        <TextField
          autoFocus
          fullWidth
          size="small"
          placeholder={say`Number or name of a part`}
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && found[0]) choose(found[0].id);
          }}
          slotProps={{
            htmlInput: { 'aria-label': say`Find a part` },
            input: {
              startAdornment: (
                <InputAdornment position="start">
                  <Search fontSize="small" />
                </InputAdornment>
              ),
            },
          }}
        />
        <Box sx={{ height: 320, display: 'flex', flexDirection: 'column' }}>
          <VirtualList
            items={found}
            keyOf={({ id }) => id}
            estimate={() => 56}
            row={({ id, name, number, heardFrames }) => (
              <ListItemButton onClick={() => choose(id)}>
                <ListItemText primary={`${number} ${name}`} secondary={formatTime(heardFrames / rate)} />
              </ListItemButton>
            )}
            what={say`This part`}
            label={say`Parts`}
          />
          {found.length === 0 && (
            <Typography color="text.secondary">
              {parts.length < 2 ? say`There is no other part yet.` : say`No part is called that.`}
            </Typography>
          )}
        </Box>
      </DialogContent>
    </Dialog>
  );
}
