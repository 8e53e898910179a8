'use client';
import Search from '@mui/icons-material/Search';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import InputAdornment from '@mui/material/InputAdornment';
import List from '@mui/material/List';
import ListItem from '@mui/material/ListItem';
import ListItemButton from '@mui/material/ListItemButton';
import ListItemText from '@mui/material/ListItemText';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { formatTime } from '@/core/base/units';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';
import { moveToPart, useMoveDialog } from '@/state/sheet/partEdits';

/** Chooses the part a passage is moved to; Enter takes the first that is found. */
export function MoveDialog() {
  const { open } = useMoveDialog();
  return open ? <OpenMoveDialog /> : null;
}

function OpenMoveDialog() {
  const [search, setSearch] = useState('');
  const openPart = usePart((state) => state.id);
  const parts = useProject((state) => state.parts);
  const rate = useProject((state) => state.project?.rateHz ?? 48_000);
  const close = () => useMoveDialog.setState({ open: false });
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = parts
    .map((part, index) => ({ ...part, number: index + 1 }))
    .filter(({ id, name, number }) => {
      const text = `${number} ${name}`.toLowerCase();
      return id !== openPart && words.every((word) => text.includes(word));
    });
  const choose = (id: string) => {
    close();
    moveToPart(id);
  };
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth aria-labelledby="move-title" transitionDuration={0}>
      <DialogTitle id="move-title">Move the passage to the end of …</DialogTitle>
      <DialogContent>
        <TextField
          autoFocus
          fullWidth
          size="small"
          placeholder="Number or name of a part"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && found[0]) choose(found[0].id);
          }}
          slotProps={{
            htmlInput: { 'aria-label': 'Find a part' },
            input: {
              startAdornment: (
                <InputAdornment position="start">
                  <Search fontSize="small" />
                </InputAdornment>
              ),
            },
          }}
        />
        <List dense sx={{ maxHeight: 320, overflowY: 'auto' }} aria-label="Parts">
          {found.map(({ id, name, number, heardFrames }) => (
            <ListItem key={id} disablePadding>
              <ListItemButton onClick={() => choose(id)}>
                <ListItemText primary={`${number} ${name}`} secondary={formatTime(heardFrames / rate)} />
              </ListItemButton>
            </ListItem>
          ))}
        </List>
        {found.length === 0 && (
          <Typography color="text.secondary">
            {parts.length < 2 ? 'There is no other part yet.' : 'No part is called that.'}
          </Typography>
        )}
      </DialogContent>
    </Dialog>
  );
}
