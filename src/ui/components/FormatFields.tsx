'use client';
import { say, written } from '@/texts/say';
import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import {
  bitRatesOf,
  fitFormat,
  isLossless,
  ratesOf,
  vbrQualities,
  type FileFormat,
} from '@/core/specs/fileFormat';

/** A coding as one choice: the fields of a format that go together. */
type Coding = Pick<FileFormat, 'container' | 'encoding' | 'broadcast'> & { variable: boolean };

const plain = { broadcast: false, variable: false };
const codings: readonly (readonly [label: string, coding: Coding])[] = [
  [say`WAV · 16-bit`, { container: 'wav', encoding: 'pcm16', ...plain }],
  [say`WAV · 24-bit`, { container: 'wav', encoding: 'pcm24', ...plain }],
  [say`WAV · 32-bit float`, { container: 'wav', encoding: 'float32', ...plain }],
  [say`Broadcast WAV · 16-bit`, { container: 'wav', encoding: 'pcm16', ...plain, broadcast: true }],
  [say`Broadcast WAV · 24-bit`, { container: 'wav', encoding: 'pcm24', ...plain, broadcast: true }],
  [say`AIFF · 16-bit`, { container: 'aiff', encoding: 'pcm16', ...plain }],
  [say`AIFF · 24-bit`, { container: 'aiff', encoding: 'pcm24', ...plain }],
  [say`FLAC · 16-bit`, { container: 'flac', encoding: 'pcm16', ...plain }],
  [say`FLAC · 24-bit`, { container: 'flac', encoding: 'pcm24', ...plain }],
  [say`MP3 · constant bit rate`, { container: 'mp3', encoding: 'pcm16', ...plain }],
  [say`MP3 · variable bit rate`, { container: 'mp3', encoding: 'pcm16', ...plain, variable: true }],
  [say`Ogg Opus`, { container: 'opus', encoding: 'pcm16', ...plain }],
];

const codingOf = (format: FileFormat) =>
  codings.findIndex(
    ([, { container, encoding, broadcast, variable }]) =>
      container === format.container &&
      (encoding === format.encoding || !isLossless(container)) &&
      broadcast === format.broadcast &&
      variable === (format.vbrQuality !== null),
  );

interface Props {
  format: FileFormat;
  onChange: (format: FileFormat) => void;
  /** Beside the sample rate: where it is converted from. */
  rateNote?: string;
  disabled?: boolean;
}

/** All that makes a file format: coding, rate, channels, and what belongs to the coding. */
export function FormatFields({ format, onChange, rateNote, disabled }: Props) {
  const change = (changes: Partial<FileFormat>) => onChange(fitFormat({ ...format, ...changes }));
  const coding = codingOf(format);
  const setCoding = (index: number) => {
    const [, { variable, ...fields }] = codings[index];
    change({ ...fields, vbrQuality: variable ? (format.vbrQuality ?? 2) : null });
  };
  return (
    <>
      <TextField
        select
        size="small"
        label={say`Format`}
        value={coding < 0 ? '' : coding}
        disabled={disabled}
        onChange={(event) => setCoding(Number(event.target.value))}
      >
        {codings.map(([label], index) => (
          <MenuItem key={label} value={index}>
            {label}
          </MenuItem>
        ))}
      </TextField>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField
          select
          size="small"
          label={say`Sample rate`}
          value={format.rateHz}
          disabled={disabled}
          onChange={(event) => change({ rateHz: Number(event.target.value) as FileFormat['rateHz'] })}
          helperText={rateNote}
          sx={{ flex: 1 }}
        >
          {ratesOf(format.container).map((rate) => (
            <MenuItem key={rate} value={rate}>
              {`${written(rate / 1000)} kHz`}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          size="small"
          label={say`Channels`}
          value={format.channels}
          disabled={disabled}
          onChange={(event) => change({ channels: Number(event.target.value) as 1 | 2 })}
          helperText={
            rateNote && (format.channels === 1 ? say`Sides as their mean` : say`Middle in both sides`)
          }
          sx={{ flex: 1 }}
        >
          <MenuItem value={1}>{say`Mono`}</MenuItem>
          <MenuItem value={2}>{format.container === 'mp3' ? say`Joint stereo` : say`Stereo`}</MenuItem>
        </TextField>
      </Box>
      {!isLossless(format.container) && format.vbrQuality === null && (
        <TextField
          select
          size="small"
          label={say`Bit rate`}
          value={format.bitRateKbps}
          disabled={disabled}
          onChange={(event) =>
            change({ bitRateKbps: Number(event.target.value) as FileFormat['bitRateKbps'] })
          }
        >
          {bitRatesOf(format.container, format.channels).map((kbps) => (
            <MenuItem key={kbps} value={kbps}>
              {say`${kbps} kbit/s`}
            </MenuItem>
          ))}
        </TextField>
      )}
      {format.vbrQuality !== null && (
        <TextField
          select
          size="small"
          label={say`Quality`}
          value={format.vbrQuality}
          disabled={disabled}
          onChange={(event) => change({ vbrQuality: Number(event.target.value) as 0 })}
        >
          {vbrQualities.map((quality) => (
            <MenuItem key={quality} value={quality}>
              {quality}
              {quality === 0 ? say` · best, largest` : ''}
            </MenuItem>
          ))}
        </TextField>
      )}
      {isLossless(format.container) && format.encoding === 'pcm16' && (
        <Option
          label={say`Dither (TPDF)`}
          checked={format.dither}
          disabled={disabled}
          onChange={(dither) => change({ dither })}
        />
      )}
      {(format.container === 'wav' || format.container === 'mp3') && (
        <Option
          label={
            format.container === 'mp3'
              ? say`Notes and part marks as chapters`
              : say`Notes and part marks as cue points`
          }
          checked={format.marks}
          disabled={disabled}
          onChange={(marks) => change({ marks })}
        />
      )}
    </>
  );
}

function Option({
  label,
  checked,
  disabled,
  onChange,
}: {
  label: string;
  checked: boolean;
  disabled?: boolean;
  onChange: (checked: boolean) => void;
}) {
  return (
    <FormControlLabel
      sx={{ my: -0.75, ml: -0.25, gap: 0.5, '& .MuiFormControlLabel-label': { fontSize: 14 } }}
      control={
        <Switch
          size="small"
          checked={checked}
          disabled={disabled}
          onChange={(event) => onChange(event.target.checked)}
        />
      }
      label={label}
    />
  );
}
