'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { stripOf } from '@/core/timeline/mixEdits';
import type { PartFilm } from '@/state/hearing/film';
import { toggleMuted, useListening } from '@/state/hearing/listening';
import { setStrip } from '@/state/mix/strips';
import { useProject } from '@/state/project/openProject';
import { cueSettings, setCueSettings } from '@/state/project/settings';
import { usePart } from '@/state/sheet/part';
import { ValueInPlace } from '../../components/ValueInPlace';

type Heard = 'heard' | 'inCue' | 'off';

/** How the sound of the picture is heard: never written but where a delivery asks for it. */
export function FilmSound({ film: { guide } }: { film: PartFilm }) {
  const level = usePart((state) => stripOf(state.timeline, guide).levelDb);
  const muted = useListening((state) => state.muted.has(guide));
  const readOnly = useProject((state) => state.readOnly);
  useProject((state) => state.project?.recording);
  const heard: Heard = muted ? 'off' : cueSettings().guide === 'off' ? 'inCue' : 'heard';
  const choose = (next: Heard) => {
    if ((next === 'off') !== muted) toggleMuted(guide);
    const inCue = next === 'inCue' ? 'off' : 'heard';
    if (next !== 'off' && cueSettings().guide !== inCue) setCueSettings({ guide: inCue });
  };
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 0.75, alignItems: 'flex-start', fontSize: 13 }}>
      <TextField
        select
        size="small"
        label={say`Its sound`}
        value={heard}
        onChange={(event) => choose(event.target.value as Heard)}
        sx={{ width: 132, '& .MuiInputBase-root': { fontSize: 13 } }}
      >
        <MenuItem value="heard">{say`heard`}</MenuItem>
        <MenuItem value="inCue">{say`off in the cue`}</MenuItem>
        <MenuItem value="off">{say`off`}</MenuItem>
      </TextField>
      {heard !== 'off' && (
        <Box sx={{ color: 'text.secondary' }}>
          {say`at `}
          <ValueInPlace
            label={say`Level of the picture’s sound`}
            value={level}
            unit="dB"
            step={0.5}
            lowest={-60}
            highest={24}
            disabled={readOnly}
            onChange={(levelDb) => setStrip(guide, { levelDb })}
          />
        </Box>
      )}
    </Box>
  );
}
