'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { ValidationError } from 'yup';
import {
  defaultLevelChoice,
  levelProfileSchema,
  levelProfiles,
  profileOf,
  type LevelChoice,
  type LevelProfile,
  type LevelProfileId,
} from '@/core/recording/levelProfiles';
import { setLevels } from '@/state/project/settings';
import { useProject } from '@/state/project/openProject';

/** Where the loudest peaks belong, by the level profile. */
export function useAim(): { min: number; max: number } {
  return useProfile().profile.peakDbfs;
}

function useProfile() {
  const choice = useProject((state) => state.project?.levels) ?? defaultLevelChoice;
  const specAim = useProject((state) => state.project?.spec.aimPeakDbfs) ?? null;
  return { choice, profile: profileOf(choice, specAim) };
}

const names: Record<LevelProfileId, string> = {
  spec: say`As the spec says`,
  ...(Object.fromEntries(Object.entries(levelProfiles).map(([id, { name }]) => [id, name])) as Record<
    keyof typeof levelProfiles,
    string
  >),
  own: say`Own values`,
};

const describe = ({ peakDbfs, roomDbfs }: LevelProfile) =>
  say`loudest peaks ${peakDbfs.min} to ${peakDbfs.max} dBFS, room at most ${roomDbfs}`.replaceAll('-', '−');

/** How loud to record; the advice of a sound check goes by it. */
export function LevelProfileChoice({ disabled = false }: { disabled?: boolean }) {
  const { choice, profile } = useProfile();
  return (
    <>
      <TextField
        select
        size="small"
        fullWidth
        label={say`Level profile`}
        value={choice.id}
        disabled={disabled}
        onChange={(event) => setLevels({ ...choice, id: event.target.value as LevelProfileId })}
        helperText={describe(profile)}
      >
        {(Object.keys(names) as LevelProfileId[]).map((id) => (
          <MenuItem key={id} value={id}>
            {names[id]}
          </MenuItem>
        ))}
      </TextField>
      {choice.id === 'own' && <OwnValues choice={choice} disabled={disabled} />}
    </>
  );
}

function OwnValues({ choice, disabled }: { choice: LevelChoice; disabled: boolean }) {
  const { own } = choice;
  const [values, setValues] = useState({
    min: String(own.peakDbfs.min),
    max: String(own.peakDbfs.max),
    room: String(own.roomDbfs),
  });
  const [error, setError] = useState('');
  const change = (changes: Partial<typeof values>) => {
    const next = { ...values, ...changes };
    setValues(next);
    const read = (text: string) =>
      text.trim() === '' ? Number.NaN : Number(text.replace('−', '-').replace(',', '.'));
    try {
      const profile = levelProfileSchema.validateSync({
        name: own.name,
        peakDbfs: { min: read(next.min), max: read(next.max) },
        roomDbfs: read(next.room),
      });
      setError('');
      setLevels({ ...choice, own: profile });
    } catch (thrown) {
      setError(thrown instanceof ValidationError ? thrown.errors[0] : String(thrown));
    }
  };
  const field = (key: keyof typeof values, label: string) => (
    <TextField
      size="small"
      label={label}
      value={values[key]}
      disabled={disabled}
      error={error !== ''}
      onChange={(event) => change({ [key]: event.target.value })}
    />
  );
  return (
    <Box sx={{ mt: 1 }}>
      <Box sx={{ display: 'flex', gap: 1 }}>
        {field('min', say`Quietest peak, dBFS`)}
        {field('max', say`Loudest peak, dBFS`)}
        {field('room', say`Room, dBFS`)}
      </Box>
      {error && (
        <Box role="alert" sx={{ color: 'error.main', fontSize: 13, mt: 0.5 }}>
          {error}
        </Box>
      )}
    </Box>
  );
}
