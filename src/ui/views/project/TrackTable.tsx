'use client';
import { say } from '@/texts/say';
import DeleteOutlined from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { routeOf } from '@/core/recording/routing';
import type { Track } from '@/core/timeline/timeline';
import { ownSeat, useFar } from '@/state/far/far';
import { setRoute, useInput } from '@/state/recording/input';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { addStave, clearSide, makeStereoPair, removeStave, renameStave } from '@/state/recording/tracks';

const none: never[] = [];

/** The tracks of the open part: which input each records, and whether it is armed. */
export function TrackTable() {
  const tracks = usePart((state) => state.timeline.tracks);
  const partId = usePart((state) => state.id);
  const channels = useInput((state) => state.channels);
  if (!partId) return <Typography color="text.secondary">{say`This project has no part yet.`}</Typography>;
  return (
    <>
      <Box
        component="table"
        aria-label={say`Tracks`}
        sx={{ width: '100%', '& th': { textAlign: 'left', fontSize: 13 } }}
      >
        <thead>
          <tr>
            <th>{say`Record`}</th>
            <th>{say`Track`}</th>
            <th>{say`from`}</th>
            <th>{say`heard`}</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {tracks.map((track, index) => (
            <TrackRow
              key={track.id}
              track={track}
              index={index}
              channels={channels}
              only={tracks.length === 1}
            />
          ))}
        </tbody>
      </Box>
      <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
        <Button
          size="small"
          variant="outlined"
          onClick={() => addStave(say`Voice ${tracks.length + 1}`)}
        >{say`Add a track`}</Button>
        <Button
          size="small"
          variant="outlined"
          disabled={tracks.length > 2 || tracks.some(({ side }) => side)}
          onClick={makeStereoPair}
          title={say`Two tracks, left and right, from inputs 1 and 2`}
        >{say`Stereo pair`}</Button>
      </Box>
    </>
  );
}

interface RowProps {
  track: Track;
  index: number;
  channels: number;
  only: boolean;
}

function TrackRow({ track, index, channels, only }: RowProps) {
  const routes = useProject((state) => state.project?.routes ?? none);
  const { channel, armed } = routeOf(track.id, index, routes);
  const inputs = Array.from({ length: Math.max(channels, channel + 1, 1) }, (_, input) => input);
  const isFar = useInput((state) => state.choice?.kind === 'far');
  const people = useFar((state) => state.people);
  /** Who comes in there, where somebody far away does. */
  const seatName = (input: number) => {
    if (!isFar) return '';
    if (input === ownSeat) return say`, your own microphone`;
    const person = people.find(({ seat }) => seat === input);
    return person ? `, ${person.name}` : '';
  };
  return (
    <tr>
      <td>
        <Checkbox
          checked={armed}
          onChange={(_, on) => setRoute(track.id, { armed: on })}
          slotProps={{ input: { 'aria-label': say`Record ${track.name}` } }}
        />
      </td>
      <td>
        <TextField
          key={track.name}
          size="small"
          defaultValue={track.name}
          onBlur={(event) => event.target.value !== track.name && renameStave(track.id, event.target.value)}
          slotProps={{ htmlInput: { 'aria-label': say`Name of track ${index + 1}`, maxLength: 60 } }}
        />
      </td>
      <td>
        <TextField
          select
          size="small"
          value={channel}
          onChange={(event) => setRoute(track.id, { channel: Number(event.target.value) })}
          slotProps={{ htmlInput: { 'aria-label': say`Input of ${track.name}` } }}
          sx={{ minWidth: 120 }}
        >
          {inputs.map((input) => (
            <MenuItem
              key={input}
              value={input}
            >{say`Input ${input + 1}${seatName(input)}${channels > 0 && input >= channels ? say` (not there)` : ''}`}</MenuItem>
          ))}
        </TextField>
      </td>
      <td>
        {track.side ? (
          <Button
            size="small"
            color="inherit"
            title={say`Hear it in the middle`}
            onClick={() => clearSide(track.id)}
          >
            {track.side}
          </Button>
        ) : (
          say`middle`
        )}
      </td>
      <td>
        <IconButton
          size="small"
          disabled={only}
          aria-label={say`Remove ${track.name}`}
          onClick={() => removeStave(track.id)}
        >
          <DeleteOutlined fontSize="small" />
        </IconButton>
      </td>
    </tr>
  );
}
