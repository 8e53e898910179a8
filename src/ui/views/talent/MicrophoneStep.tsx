'use client';
import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import { levelProfiles } from '@/core/recording/levelProfiles';
import { microphones } from '@/state/talent/microphone';
import { useTalent } from '@/state/talent/talent';
import { chooseMicrophone, enter } from '@/state/talent/visit';
import { LevelBar } from '../booth/LevelBar';
import { TalentCheck } from './TalentCheck';

interface Device {
  deviceId: string;
  label: string;
}

/** Which microphone, and how loud: nothing is sent before the talent goes on. */
export function MicrophoneStep() {
  const { microphone, microphoneName, microphoneDetail, warnings, name } = useTalent();
  const [devices, setDevices] = useState<Device[]>([]);
  const open = microphone === 'open';
  useEffect(() => {
    let current = true;
    const read = () =>
      microphones().then(
        (found) => current && setDevices(found.filter(({ label }) => label !== '')),
        () => undefined,
      );
    void read();
    navigator.mediaDevices?.addEventListener('devicechange', read);
    return () => {
      current = false;
      navigator.mediaDevices?.removeEventListener('devicechange', read);
    };
  }, [microphone]);
  const chosen = devices.find(({ label }) => label === microphoneName)?.deviceId ?? 'other';
  return (
    <>
      <Typography variant="h1" sx={{ mb: 1 }}>{say`Your microphone`}</Typography>
      {open && (
        <Typography
          role="status"
          sx={{ color: 'error.main', fontWeight: 650, mb: 1 }}
        >{say`● Your microphone is open; nobody hears you yet`}</Typography>
      )}
      <Typography
        color="text.secondary"
        sx={{ mb: 3 }}
      >{say`Hello ${name}. Choose the microphone you will speak into, then read a few lines as you will read them.`}</Typography>
      <Box sx={{ display: 'flex', gap: 4, alignItems: 'stretch' }}>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          {devices.length > 0 && open ? (
            <TextField
              select
              fullWidth
              label={say`Microphone`}
              value={chosen}
              onChange={(event) => {
                const device = devices.find(({ deviceId }) => deviceId === event.target.value);
                if (device) void chooseMicrophone({ kind: 'microphone', ...device });
              }}
            >
              {chosen === 'other' && <MenuItem value="other">{microphoneName}</MenuItem>}
              {devices.map(({ deviceId, label }) => (
                <MenuItem key={deviceId} value={deviceId}>
                  {label}
                </MenuItem>
              ))}
            </TextField>
          ) : (
            <Button
              variant={open ? 'outlined' : 'contained'}
              size="large"
              disabled={microphone === 'opening'}
              onClick={() =>
                void chooseMicrophone({ kind: 'microphone', deviceId: '', label: say`Microphone` })
              }
            >
              {microphone === 'opening' ? say`Opening …` : say`Choose the microphone`}
            </Button>
          )}
          {open && (
            <Typography sx={{ mt: 1 }} data-testid="talent-microphone">
              {microphoneName} · {microphoneDetail}
            </Typography>
          )}
          {microphone === 'failed' && (
            <Alert severity="error" sx={{ mt: 2 }}>
              {microphoneDetail}
            </Alert>
          )}
          {warnings.map((warning) => (
            <Alert key={warning} severity="warning" sx={{ mt: 1 }}>
              {warning}
            </Alert>
          ))}
          {open && <TalentCheck />}
        </Box>
        <Box sx={{ width: 130, minHeight: 320, display: 'flex', flexDirection: 'column' }}>
          <LevelBar channel={0} open={open} aim={levelProfiles.quiet.peakDbfs} compact={false} />
        </Box>
      </Box>
      <Box sx={{ mt: 3 }}>
        <Button
          variant="contained"
          size="large"
          disabled={!open}
          onClick={() => void enter()}
        >{say`Go to the studio`}</Button>
      </Box>
    </>
  );
}
