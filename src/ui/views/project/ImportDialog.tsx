'use client';
import { say, written } from '@/texts/say';
import Close from '@mui/icons-material/Close';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import IconButton from '@mui/material/IconButton';
import LinearProgress from '@mui/material/LinearProgress';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import { useDropzone } from 'react-dropzone';
import { formatBytes, formatTime } from '@/core/base/units';
import {
  closeImport,
  dropFile,
  listenTo,
  offerFiles,
  runImport,
  stopListening,
  useImporting,
  type ImportFile,
  type ImportPlace,
} from '@/state/files/importing';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { useTransport } from '@/state/hearing/transport';

/** Sound files on their way into the project: what each is, where they go, and how far they have come. */
export function ImportDialog() {
  const { open, files, running } = useImporting();
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const {
    getRootProps,
    getInputProps,
    open: choose,
  } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: (dropped) => void offerFiles(dropped),
  });
  const ready = files.filter(({ found, done }) => found && done !== 1).length;
  return (
    <Dialog open={open} onClose={running ? undefined : closeImport} maxWidth="md" fullWidth>
      <DialogTitle>{say`Import sound`}</DialogTitle>
      <DialogContent {...getRootProps()}>
        <input {...getInputProps()} aria-label={say`Sound files`} />
        {files.length === 0 ? (
          <Box
            sx={{
              border: '1.5px dashed',
              borderColor: 'divider',
              borderRadius: 2,
              p: 4,
              textAlign: 'center',
            }}
          >
            <Box sx={{ mb: 1.5 }}>{say`Drop files here, or paste them.`}</Box>
            <Button variant="contained" onClick={choose}>{say`Choose files`}</Button>
            <Box
              sx={{ color: 'text.secondary', fontSize: 13, mt: 1.5 }}
            >{say`WAV, Broadcast WAV, AIFF, FLAC, MP3, M4A, Ogg, WebM, and films (MP4, WebM), seen beside a part. Converted once, to ${rateHz / 1000} kHz.`}</Box>
          </Box>
        ) : (
          <>
            <Box
              component="ul"
              aria-label={say`Files to import`}
              sx={{ listStyle: 'none', m: 0, p: 0, mb: 2 }}
            >
              {files.map((file) => (
                <FileRow key={file.id} item={file} rateHz={rateHz} />
              ))}
            </Box>
            <Choices />
          </>
        )}
      </DialogContent>
      <DialogActions>
        {files.length > 0 && (
          <Button
            color="secondary"
            onClick={choose}
            disabled={running}
            sx={{ mr: 'auto' }}
          >{say`Add files`}</Button>
        )}
        <Button color="inherit" onClick={closeImport}>{say`Cancel`}</Button>
        <Button
          variant="contained"
          disabled={running || ready === 0}
          onClick={() => void runImport()}
        >{say`Import ${ready === 1 ? say`1 file` : say`${ready} files`}`}</Button>
      </DialogActions>
    </Dialog>
  );
}

function FileRow({ item, rateHz }: { item: ImportFile; rateHz: number }) {
  const { file, found, problem, done } = item;
  const { running } = useImporting();
  const playing = useTransport((state) => state.mode === 'playing');
  return (
    <Box component="li" sx={{ py: 1, borderBottom: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5 }}>
        <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
          <b>{file.name}</b>
          <Box sx={{ color: 'text.secondary', fontSize: 13 }}>
            {found ? describe(found, file, rateHz) : problem ? '' : say`Looking at it …`}
          </Box>
          {problem && (
            <Box role="alert" sx={{ color: 'error.main', fontSize: 14 }}>
              {problem}
            </Box>
          )}
        </Box>
        {done !== null && done < 1 && (
          <Button
            size="small"
            color="secondary"
            onClick={() => (playing ? stopListening() : void listenTo(item))}
          >
            {playing ? say`Stop` : say`Listen`}
          </Button>
        )}
        {done === null && (
          <IconButton
            size="small"
            disabled={running}
            aria-label={say`Leave ${file.name} out`}
            onClick={() => dropFile(item.id)}
          >
            <Close fontSize="small" />
          </IconButton>
        )}
        {done === 1 && <Box sx={{ color: 'success.main', fontWeight: 700 }}>{say`Imported`}</Box>}
      </Box>
      {done !== null && done < 1 && (
        <LinearProgress
          variant="determinate"
          value={done * 100}
          aria-label={say`Importing ${file.name}`}
          sx={{ mt: 0.75 }}
        />
      )}
    </Box>
  );
}

function describe(found: NonNullable<ImportFile['found']>, file: File, rateHz: number): string {
  const { kind, channels, seconds, marks, origin } = found;
  const { picture } = found;
  const size = picture && `${picture.width} × ${picture.height}`;
  if (channels === 0)
    return [kind, size, say`no sound`, seconds !== null && formatTime(seconds, true), formatBytes(file.size)]
      .filter(Boolean)
      .join(' · ');
  const sides = channels === 1 ? say`mono` : channels === 2 ? say`stereo` : say`${channels} channels`;
  return [
    kind.toUpperCase(),
    `${written(found.rateHz / 1000)} kHz${found.rateHz === rateHz ? '' : ` → ${written(rateHz / 1000)} kHz`}`,
    sides,
    size,
    seconds !== null && formatTime(seconds, true),
    formatBytes(file.size),
    marks > 0 && say`${marks} marks`,
    origin && say`time ${formatTime(origin.timeReference / found.rateHz, true)}`,
  ]
    .filter((word) => typeof word === 'string')
    .join(' · ');
}

/** Where the files go and what of them is taken. */
function Choices() {
  const { files, place, trackId, channels, keepMarks, running } = useImporting();
  const set = useImporting.setState;
  const { tracks } = usePart((state) => state.timeline);
  const partId = usePart((state) => state.id);
  const part = useProject((state) => state.parts.find(({ id }) => id === partId));
  const found = files.flatMap((file) => file.found ?? []);
  const twoSides = found.some((sound) => sound.channels > 1);
  const pictured = found.some(({ picture }) => picture);
  const timed = found.some(({ origin }) => origin);
  const room = place === 'parts' || (place !== 'guide' && tracks.length > 1);
  const over = place !== 'parts' && place !== 'guide';
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1.5, alignItems: 'center' }}>
      <TextField
        select
        size="small"
        label={say`Where to`}
        value={place}
        disabled={running}
        onChange={(event) => set({ place: event.target.value as ImportPlace })}
        sx={{ minWidth: 280 }}
      >
        <MenuItem value="parts">{say`Each a part of its own`}</MenuItem>
        {part && (
          <MenuItem value="caret">{say`Into “${part.name}” at the caret; what follows moves`}</MenuItem>
        )}
        {part && <MenuItem value="track">{say`Over a track of “${part.name}” from the caret on`}</MenuItem>}
        {part && (
          <MenuItem value="guide">
            {say`As ${pictured ? say`the picture of` : say`a guide to`} “${part.name}”: `}
            {pictured && say`seen and `}
            {say`heard, not written`}
          </MenuItem>
        )}
        {part && timed && (
          <MenuItem value="time">{say`Over a track of “${part.name}” at its own time`}</MenuItem>
        )}
      </TextField>
      {over && tracks.length > 1 && (
        <TextField
          select
          size="small"
          label={say`Track`}
          value={trackId ?? tracks[0].id}
          disabled={running}
          onChange={(event) => set({ trackId: event.target.value })}
        >
          {tracks.map(({ id, name }) => (
            <MenuItem key={id} value={id}>
              {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      {twoSides && (
        <TextField
          select
          size="small"
          label={say`Of two sides`}
          value={channels === 'both' && !room ? 'mean' : channels}
          disabled={running}
          onChange={(event) => set({ channels: event.target.value as typeof channels })}
          sx={{ minWidth: 220 }}
        >
          <MenuItem value="mean">{say`Mono: their mean`}</MenuItem>
          <MenuItem value="left">{say`The left alone`}</MenuItem>
          <MenuItem value="right">{say`The right alone`}</MenuItem>
          <MenuItem value="both" disabled={!room}>{say`Both, on two tracks`}</MenuItem>
        </TextField>
      )}
      {found.some(({ marks }) => marks > 0) && (
        <FormControlLabel
          control={
            <Switch
              size="small"
              checked={keepMarks}
              disabled={running}
              onChange={(event) => set({ keepMarks: event.target.checked })}
            />
          }
          label={say`Keep its marks as notes`}
        />
      )}
    </Box>
  );
}
