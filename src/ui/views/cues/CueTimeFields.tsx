'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { frameOfTimecode, rateNames, rates, timecodeOf, type RateName } from '@/core/cues/timecode';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import { setCueTime } from '@/state/cues/cues';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';

interface FieldsProps {
  rate: RateName;
  start: number;
  disabled?: boolean;
  onChange: (time: { rate: RateName; start: number }) => void;
}

/** How time is told: pictures a second, and the timecode the part begins with. */
export function TimeFields({ rate, start, disabled, onChange }: FieldsProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const read = typed === null ? null : frameOfTimecode(typed, rates[rate]);
  const take = () => {
    if (read && 'frame' in read) onChange({ rate, start: read.frame });
    if (!read || 'frame' in read) setTyped(null);
  };
  return (
    <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'flex-start' }}>
      <TextField
        select
        size="small"
        label={say`Pictures a second`}
        value={rate}
        disabled={disabled}
        onChange={({ target }) => {
          const next = target.value as RateName;
          // The same hour, minute and second, as far as it exists in the other way of counting.
          const told = timecodeOf(start, rates[rate]).replace(/[:;]\d\d$/, ':00');
          const moved = frameOfTimecode(told, rates[next]);
          onChange({ rate: next, start: 'frame' in moved ? moved.frame : 0 });
        }}
        sx={{ width: 150 }}
      >
        {rateNames.map((name) => (
          <MenuItem key={name} value={name}>
            {name}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        size="small"
        label={say`The part begins at`}
        value={typed ?? timecodeOf(start, rates[rate])}
        disabled={disabled}
        error={!!read && 'fault' in read}
        helperText={read && 'fault' in read ? `${read.fault}.` : undefined}
        onChange={({ target }) => setTyped(target.value)}
        onBlur={take}
        onKeyDown={({ key }) => key === 'Enter' && take()}
        sx={{ width: 170 }}
      />
    </Box>
  );
}

export function CueTimeFields() {
  const { rate, start } = usePart((state) => cueSheetOf(state.timeline));
  const readOnly = useProject((state) => state.readOnly);
  return <TimeFields rate={rate} start={start} disabled={readOnly} onChange={setCueTime} />;
}
