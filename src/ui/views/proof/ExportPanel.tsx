'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { formatBytes, formatTime } from '@/core/base/units';
import { sampleRatesHz, type FileFormat } from '@/core/specs/fileFormat';
import { exportNow, planExport, saveProjectFile, type ExportScope } from '@/state/exporting';
import { useJob } from '@/state/jobs';
import { usePart } from '@/state/part';
import { useSession } from '@/state/session';

const codings = {
  'wav pcm16': 'WAV · 16-bit',
  'wav pcm24': 'WAV · 24-bit',
  'wav float32': 'WAV · 32-bit float',
  'mp3 pcm16': 'MP3 · constant bit rate, mono',
} as const;
type Coding = keyof typeof codings;

const codingOf = ({ container, encoding }: FileFormat): Coding =>
  container === 'mp3' ? 'mp3 pcm16' : (`wav ${encoding}` as Coding);

/** What will be written, exactly, before it is written. The format starts as the spec wants it. */
export function ExportPanel({ failing }: { failing: number }) {
  const project = useSession((state) => state.project);
  useSession((state) => state.parts);
  const selection = usePart((state) => state.selection);
  usePart((state) => state.timeline);
  const busy = useJob((state) => state.job !== null);
  const [scope, setScope] = useState<ExportScope>('all');
  const [own, setOwn] = useState<FileFormat | null>(null);
  if (!project) return null;

  const format = own ?? project.spec.file;
  const usedScope = scope === 'selection' && !selection ? 'part' : scope;
  const passage = selection ? (selection.to - selection.from) / project.rateHz : 0;
  const { files } = planExport(usedScope, format);
  const total = files.reduce((sum, file) => sum + file.bytes, 0);
  const change = (changes: Partial<FileFormat>) => setOwn({ ...format, ...changes });
  const setCoding = (coding: Coding) => {
    const [container, encoding] = coding.split(' ') as [FileFormat['container'], FileFormat['encoding']];
    const rateHz = container === 'mp3' && format.rateHz > 48_000 ? 48_000 : format.rateHz;
    change({ container, encoding, rateHz, bitRateKbps: format.bitRateKbps });
  };
  return (
    <Box
      component="aside"
      aria-label="Export"
      data-recorded-rate={project.rateHz}
      sx={{
        width: 318,
        flexShrink: 0,
        borderLeft: 1,
        borderColor: 'divider',
        p: 2.25,
        display: 'flex',
        flexDirection: 'column',
        gap: 1.75,
        overflowY: 'auto',
      }}
    >
      <Typography variant="h2">Export</Typography>
      <TextField
        select
        size="small"
        label="What"
        value={usedScope}
        onChange={(event) => setScope(event.target.value as ExportScope)}
      >
        <MenuItem value="all">All parts, one file each</MenuItem>
        <MenuItem value="part">The open part</MenuItem>
        <MenuItem value="selection" disabled={!selection}>
          The selection{passage > 0 ? ` · ${formatTime(passage, true)}` : ': select in the Booth'}
        </MenuItem>
      </TextField>
      <TextField
        select
        size="small"
        label="Format"
        value={codingOf(format)}
        onChange={(event) => setCoding(event.target.value as Coding)}
      >
        {(Object.keys(codings) as Coding[]).map((coding) => (
          <MenuItem key={coding} value={coding}>
            {coding.startsWith('mp3') ? `MP3 · ${format.bitRateKbps} kbit/s constant, mono` : codings[coding]}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        select
        size="small"
        label="Sample rate"
        value={format.rateHz}
        onChange={(event) => change({ rateHz: Number(event.target.value) as FileFormat['rateHz'] })}
        helperText={
          format.rateHz === project.rateHz ? 'As recorded' : `Converted from ${project.rateHz / 1000} kHz`
        }
      >
        {sampleRatesHz
          .filter((rate) => format.container === 'wav' || rate <= 48_000)
          .map((rate) => (
            <MenuItem key={rate} value={rate}>
              {rate / 1000} kHz
            </MenuItem>
          ))}
      </TextField>
      {format.container === 'wav' && format.encoding === 'pcm16' && (
        <FormControlLabel
          control={
            <Switch checked={format.dither} onChange={(event) => change({ dither: event.target.checked })} />
          }
          label="Dither (TPDF)"
        />
      )}
      <Box
        sx={{
          border: 1,
          borderColor: 'divider',
          borderRadius: 2,
          p: 1.5,
          fontSize: 13,
          bgcolor: 'background.paper',
        }}
      >
        <Box sx={{ color: 'text.secondary', mb: 0.5 }}>
          Will be written: {files.length === 1 ? '1 file' : `${files.length} files in one archive`} ·{' '}
          {formatBytes(total)}
        </Box>
        {files.map((file) => (
          <Box key={file.fileName} sx={{ overflowWrap: 'anywhere', py: 0.25 }} data-testid="planned-file">
            {file.fileName} · {formatBytes(file.bytes)}
          </Box>
        ))}
      </Box>
      <Box sx={{ flex: 1 }} />
      <Button
        variant="outlined"
        color="inherit"
        disabled={busy}
        onClick={() => void saveProjectFile(project.id, project.name)}
      >
        Save a project file
      </Button>
      <Button
        variant="contained"
        size="large"
        disabled={busy || files.length === 0}
        onClick={() => void exportNow(usedScope, format)}
      >
        Export {files.length === 1 ? '1 file' : `${files.length} files`}
      </Button>
      {failing > 0 && (
        <Typography color="text.secondary" variant="body2">
          {failing === 1 ? '1 part does' : `${failing} parts do`} not pass. Everything can be exported all the
          same.
        </Typography>
      )}
    </Box>
  );
}
