'use client';
import { say } from '@/texts/say';
import DeleteOutlined from '@mui/icons-material/DeleteOutlined';
import PlayArrow from '@mui/icons-material/PlayArrow';
import Stop from '@mui/icons-material/Stop';
import VerticalAlignBottom from '@mui/icons-material/VerticalAlignBottom';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import { format } from '@/texts/dates';
import type { ReactNode } from 'react';
import { formatDb, formatTime } from '@/core/base/units';
import { useFar } from '@/state/far/far';
import { usePart } from '@/state/sheet/part';
import { useProject, type SourceRecord } from '@/state/project/openProject';
import { changeTake, choose, deleteTake, listen, putInPlace, takeLength } from '@/state/recording/takes';
import { useTransport } from '@/state/hearing/transport';
import { circledNumber } from '../../components/circledNumber';
import { serif } from '../../theme/theme';

interface Props {
  take: SourceRecord;
  onSheet: boolean;
  chosen: boolean;
}

/** One take: what it is, where it is, and what can be done with it. */
export function TakeRow({ take, onSheet, chosen }: Props) {
  const readOnly = useProject((state) => state.readOnly);
  const mode = useTransport((state) => state.mode);
  const playing = useTransport((state) => state.playingTake === take.id);
  const rateHz = take.rateHz;
  const still = mode === 'idle' && !readOnly;
  return (
    <Box sx={{ py: 0.75, borderBottom: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Checkbox
          size="small"
          checked={chosen}
          onChange={(_, on) => choose(take.id, on)}
          slotProps={{ input: { 'aria-label': say`Select ${take.name}` } }}
          sx={{ p: 0.25 }}
        />
        <Text
          value={take.name}
          label={say`Name of take ${take.take}`}
          onChange={(name) => name && changeTake(take, { name })}
          sx={{ fontFamily: serif, fontWeight: 650, flex: 1 }}
        />
        <Box component="span" sx={{ fontVariantNumeric: 'tabular-nums', fontSize: 13 }}>
          {formatTime(takeLength(take) / rateHz, true)}
        </Box>
      </Box>
      <Box sx={{ color: 'text.secondary', fontSize: 12.5, lineHeight: 1.4 }}>
        {format(take.startedAt, 'd MMM, HH:mm')} · {take.input}
        <Tracks take={take} />
        <br />
        <Levels take={take} />
        {take.overrunFrames > 0 && say` · ${take.overrunFrames} frames lost`}
        <br />
        <Place take={take} onSheet={onSheet} />
        <OverLine take={take} />
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center' }} onMouseDown={keepFocusOutsideText}>
        <Action
          label={playing ? say`Stop ${take.name}` : say`Listen to ${take.name}`}
          disabled={mode === 'recording' || mode === 'rolling' || mode === 'finishing'}
          onClick={() => void listen(take)}
        >
          {playing ? <Stop fontSize="small" /> : <PlayArrow fontSize="small" />}
        </Action>
        <Action
          label={take.circled ? say`Take the circle from ${take.name}` : say`Circle ${take.name}`}
          pressed={take.circled ?? false}
          disabled={readOnly}
          onClick={() => changeTake(take, { circled: !take.circled })}
        >
          <Box
            component="span"
            sx={{
              width: 20,
              fontSize: take.circled ? 19 : 13,
              lineHeight: '20px',
              fontWeight: 700,
              color: take.circled ? 'secondary.main' : 'text.secondary',
            }}
          >
            {take.circled ? circledNumber(take.take) : take.take}
          </Box>
        </Action>
        <Action label={say`Put ${take.name} in place`} disabled={!still} onClick={() => putInPlace(take)}>
          <VerticalAlignBottom fontSize="small" />
        </Action>
        <Action label={say`Delete ${take.name}`} disabled={!still} onClick={() => deleteTake(take)}>
          <DeleteOutlined fontSize="small" />
        </Action>
        <Text
          value={take.note ?? ''}
          label={say`Note on ${take.name}`}
          placeholder={say`note`}
          onChange={(note) => changeTake(take, { note })}
          sx={{ fontStyle: 'italic', fontFamily: serif, fontSize: 13.5, flex: 1, ml: 0.5 }}
        />
      </Box>
    </Box>
  );
}

const keepFocusOutsideText = (event: React.MouseEvent) => {
  if (!(event.target as HTMLElement).closest('input')) event.preventDefault();
};

function Tracks({ take }: { take: SourceRecord }) {
  const tracks = usePart((state) => state.timeline.tracks);
  const ids = take.trackIds ?? [take.trackId];
  if (tracks.length < 2) return null;
  return <> · {ids.map((id) => tracks.find((track) => track.id === id)?.name ?? '–').join(' + ')}</>;
}

/** What is heard of it came over a line; what was recorded at its other end is still to come. */
function OverLine({ take: { line } }: { take: SourceRecord }) {
  const arriving = useFar((state) => state.arriving.get(line?.take ?? ''));
  if (!line || line.voices.length === 0) return null;
  const names = line.voices.map(({ name }) => name).join(say` and `);
  const share = arriving && arriving.of > 0 ? Math.floor((100 * arriving.here) / arriving.of) : 0;
  return (
    <Box
      sx={{ color: 'warning.main' }}
    >{say`As it came over the line; ${share} % of what ${names} recorded is here`}</Box>
  );
}

function Levels({ take: { summary } }: { take: SourceRecord }) {
  if (!summary) return <>{say`no level known`}</>;
  const { peakDbfs, loudnessLufs, clippedSamples } = summary;
  const parts = [
    peakDbfs === null ? say`silent` : say`peak ${formatDb(peakDbfs, 'dBFS')}`,
    ...(loudnessLufs === null ? [] : [formatDb(loudnessLufs, 'LUFS')]),
    ...(clippedSamples > 0 ? [say`${clippedSamples} clipped`] : []),
  ];
  return <>{parts.join(' · ')}</>;
}

/** Where it belongs, and whether it is what is heard there. */
function Place({ take, onSheet }: { take: SourceRecord; onSheet: boolean }) {
  const place = usePart((state) => state.timeline.places.find(({ source }) => source === take.id));
  if (!place) return <>{say`not on the sheet; put in place, it goes in at the caret`}</>;
  const time = formatTime(place.at / take.rateHz, true);
  return <>{onSheet ? say`on the sheet at ${time}` : say`in the stack at ${time}`}</>;
}

interface ActionProps {
  label: string;
  disabled?: boolean;
  pressed?: boolean;
  onClick: () => void;
  children: ReactNode;
}

const Action = ({ label, disabled, pressed, onClick, children }: ActionProps) => (
  <IconButton
    size="small"
    aria-label={label}
    title={label}
    aria-pressed={pressed}
    disabled={disabled}
    onClick={onClick}
  >
    {children}
  </IconButton>
);

interface TextProps {
  value: string;
  label: string;
  placeholder?: string;
  onChange: (value: string) => void;
  sx: object;
}

/** A text that is written in place and kept when it is left. */
function Text({ value, label, placeholder, onChange, sx }: TextProps) {
  const readOnly = useProject((state) => state.readOnly);
  return (
    <InputBase
      key={value}
      defaultValue={value}
      readOnly={readOnly}
      placeholder={placeholder}
      inputProps={{ 'aria-label': label, maxLength: 200 }}
      onBlur={(event) => event.target.value.trim() !== value && onChange(event.target.value.trim())}
      onKeyDown={(event) => event.key === 'Enter' && (event.target as HTMLElement).blur()}
      sx={sx}
    />
  );
}
