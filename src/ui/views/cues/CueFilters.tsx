'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Chip from '@mui/material/Chip';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useMemo } from 'react';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import { cueProgress } from '@/core/timeline/cueState';
import { useCues } from '@/state/cues/cues';
import { usePart } from '@/state/sheet/part';

/** Whose cues are listed, and whether those that are done are. */
export function CueFilters() {
  const timeline = usePart((state) => state.timeline);
  const character = useCues((state) => state.character);
  const toDoOnly = useCues((state) => state.toDoOnly);
  const { characters } = cueSheetOf(timeline);
  const progress = useMemo(() => cueProgress(timeline), [timeline]);
  const { done, all } = progress.all;
  const ofAll = (id: string) => {
    const own = progress.characters.get(id);
    return own && say`${own.done} of ${own.all} done`;
  };
  return (
    <>
      <Select
        size="small"
        variant="standard"
        disableUnderline
        displayEmpty
        value={character ?? ''}
        onChange={({ target }) => useCues.setState({ character: target.value || null })}
        inputProps={{ 'aria-label': say`Whose cues` }}
        renderValue={(id) => characters.find((one) => one.id === id)?.name ?? say`Everybody`}
        sx={{ fontSize: 13, maxWidth: 104 }}
      >
        <MenuItem value="">{say`Everybody`}</MenuItem>
        {characters.map(({ id, name }) => (
          <MenuItem key={id} value={id} sx={{ gap: 2, justifyContent: 'space-between' }}>
            {name}
            <Box component="span" sx={{ color: 'text.secondary', fontSize: 12.5 }}>
              {ofAll(id)}
            </Box>
          </MenuItem>
        ))}
      </Select>
      <Chip
        size="small"
        variant={toDoOnly ? 'filled' : 'outlined'}
        label={say`Still to do ${all - done}`}
        aria-pressed={toDoOnly}
        onClick={() => useCues.setState({ toDoOnly: !toDoOnly })}
      />
    </>
  );
}
