'use client';
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
  const { done, all } = useMemo(() => cueProgress(timeline).all, [timeline]);
  return (
    <>
      <Select
        size="small"
        variant="standard"
        disableUnderline
        displayEmpty
        value={character ?? ''}
        onChange={({ target }) => useCues.setState({ character: target.value || null })}
        inputProps={{ 'aria-label': 'Whose cues' }}
        sx={{ fontSize: 13, maxWidth: 104 }}
      >
        <MenuItem value="">Everybody</MenuItem>
        {characters.map(({ id, name }) => (
          <MenuItem key={id} value={id}>
            {name}
          </MenuItem>
        ))}
      </Select>
      <Chip
        size="small"
        variant={toDoOnly ? 'filled' : 'outlined'}
        label={`Still to do ${all - done}`}
        aria-pressed={toDoOnly}
        onClick={() => useCues.setState({ toDoOnly: !toDoOnly })}
      />
    </>
  );
}
