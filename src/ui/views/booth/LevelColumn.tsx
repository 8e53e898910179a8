'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { armedTracks, mainInput } from '@/core/recording/routing';
import { useInput } from '@/state/recording/input';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { openSoundCheck } from '@/state/recording/soundCheck';
import { useTransport } from '@/state/hearing/transport';
import { useKeyText } from '../../commands/keys';
import { LevelBar } from './LevelBar';
import { useAim } from './LevelProfileChoice';

const none: never[] = [];
const columnWidth = 148;

/** The level of every armed track, before and while recording. */
export function LevelColumn() {
  const keyText = useKeyText();
  const status = useInput((state) => state.status);
  const channels = useInput((state) => state.channels);
  const tracks = usePart((state) => state.timeline.tracks);
  const routes = useProject((state) => state.project?.routes ?? none);
  const readOnly = useProject((state) => state.readOnly);
  const idle = useTransport((state) => state.mode === 'idle');
  const aim = useAim();
  const armed = armedTracks(tracks, routes, { [mainInput]: Math.max(channels, 1) });
  const shown = armed.length > 0 ? armed : [{ id: 'none', name: '', channel: 0 }];
  const open = status === 'open';
  return (
    <Box
      component="aside"
      aria-label={say`Level of the input`}
      sx={{
        width: shown.length === 1 ? columnWidth : 24 + 112 * Math.min(3, shown.length),
        flexShrink: 0,
        borderLeft: 1,
        borderColor: 'divider',
        display: 'flex',
        flexDirection: 'column',
        p: 1.5,
        minHeight: 0,
      }}
    >
      <Box sx={{ flex: 1, display: 'flex', gap: 1.75, minHeight: 0, overflowX: 'auto' }}>
        {shown.map(({ id, name, channel }) => (
          <Box
            key={id}
            sx={{ flex: 1, minWidth: 92, display: 'flex', flexDirection: 'column', minHeight: 0 }}
          >
            {shown.length > 1 && (
              <Typography noWrap sx={{ textAlign: 'center', fontStyle: 'italic', fontSize: 13 }} title={name}>
                {name}
              </Typography>
            )}
            <LevelBar channel={channel} open={open} aim={aim} compact={shown.length > 1} />
          </Box>
        ))}
      </Box>
      <Button
        size="small"
        color="inherit"
        variant="outlined"
        disabled={!open || !idle || readOnly || armed.length === 0}
        onClick={() => void openSoundCheck()}
        onMouseDown={(event) => event.preventDefault()}
        title={keyText('soundCheck')}
        sx={{ mt: 1, borderColor: 'divider' }}
      >{say`Sound check`}</Button>
    </Box>
  );
}
