'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { formatBytes, formatTime } from '@/core/base/units';
import { type DeliveredSound } from '@/core/delivery/partFiles';
import { nameFields, unknownFields } from '@/core/formats/fileNames';
import { isSizeKnown } from '@/core/formats/soundFileSize';
import { describeFile } from '@/core/specs/describe';
import type { FileFormat } from '@/core/specs/fileFormat';
import { bitRateThatFits, usualMailBytes } from '@/core/specs/mailLimit';
import { filePasses } from '@/core/specs/report';
import { exportNow, showExported, useExported } from '@/state/files/exporting';
import { saveProjectFile } from '@/state/files/projectFiles';
import {
  formatsOf,
  offeredSounds,
  planExport,
  useExportOptions,
  type Destination,
  type ExportScope,
  type PlannedFile,
} from '@/state/files/exportPlan';
import { canUseFolders } from '@/state/files/folders';
import { isPartial, useListening } from '@/state/hearing/listening';
import { useJob } from '@/state/page/jobs';
import { notify } from '@/state/page/notices';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { ExportResult } from './ExportResult';
import { FormatFields } from '../../components/FormatFields';

const set = useExportOptions.setState;

const soundNames: Record<DeliveredSound, string> = {
  mix: say`All voices and beds together`,
  voices: say`Voices without the bed`,
  each: say`Each voice in a file of its own`,
  bed: say`The bed alone`,
  beside: say`The guide left, the voices right`,
  guided: say`All together with the guide`,
};

/** What will be written, exactly, before it is written. The formats start as the spec wants them. */
export function ExportPanel({ failing }: { failing: number }) {
  const project = useProject((state) => state.project);
  const parts = useProject((state) => state.parts);
  const selection = usePart((state) => state.selection);
  usePart((state) => state.timeline);
  const busy = useJob((state) => state.job !== null);
  const options = useExportOptions();
  const sounds = offeredSounds(parts);
  const partial = useListening(isPartial);
  const { report, shown } = useExported();
  const [namesFields, setNamingFocus] = useState(false);
  if (!project) return null;

  const usedScope = options.scope === 'selection' && !selection ? 'part' : options.scope;
  const passage = selection ? (selection.to - selection.from) / project.rateHz : 0;
  const format = options.format ?? project.spec.file;
  const formats = formatsOf(project, options);
  const naming = options.naming ?? project.spec.naming;
  const [unknown] = unknownFields(naming);
  const plan = planExport({ ...options, scope: usedScope });
  // One file alone is handed over as it is; its report is under the last export.
  const texts = plan.texts.length + (options.report && plan.files.length > 1 ? 3 : 0);
  return (
    <Box
      component="aside"
      aria-label={say`Export`}
      data-recorded-rate={project.rateHz}
      sx={{
        width: 318,
        flexShrink: 0,
        borderLeft: 1,
        borderColor: 'divider',
        display: 'flex',
        flexDirection: 'column',
        minHeight: 0,
      }}
    >
      <Box sx={{ flex: 1, overflowY: 'auto', p: 2.25, display: 'flex', flexDirection: 'column', gap: 1.75 }}>
        <Typography variant="h2">{say`Export`}</Typography>
        <TextField
          select
          size="small"
          label={say`What`}
          value={usedScope}
          onChange={(event) => set({ scope: event.target.value as ExportScope })}
        >
          <MenuItem value="all">{say`All parts, one file each`}</MenuItem>
          <MenuItem value="part">{say`The open part`}</MenuItem>
          <MenuItem
            value="selection"
            disabled={!selection}
          >{say`The selection${passage > 0 ? ` · ${formatTime(passage, true)}` : say`: select in the Booth`}`}</MenuItem>
        </TextField>
        {sounds.length > 1 && (
          <TextField
            select
            size="small"
            label={say`Sound`}
            value={sounds.includes(options.what) ? options.what : 'mix'}
            onChange={(event) => set({ what: event.target.value as DeliveredSound })}
          >
            {sounds.map((sound) => (
              <MenuItem key={sound} value={sound}>
                {soundNames[sound]}
              </MenuItem>
            ))}
          </TextField>
        )}
        {partial && (
          <Typography
            variant="body2"
            color="warning.main"
            role="status"
          >{say`Mute or solo is on: it changes what you hear, not what is written.`}</Typography>
        )}
        <FormatFields
          format={format}
          onChange={(changed: FileFormat) => set({ format: changed })}
          rateNote={
            format.rateHz === project.rateHz ? say`As recorded` : say`From ${project.rateHz / 1000} kHz`
          }
        />
        {options.format ? (
          <Button
            size="small"
            color="secondary"
            sx={{ alignSelf: 'start' }}
            onClick={() => set({ format: null })}
          >{say`As the spec wants it: ${describeFile(project.spec.file)}`}</Button>
        ) : (
          formats.length > 1 && (
            <Typography
              variant="body2"
              color="text.secondary"
            >{say`And of each part, as the spec says: ${formats.slice(1).map(describeFile).join('; ')}`}</Typography>
          )
        )}
        <TextField
          size="small"
          label={say`Name of each file`}
          value={naming}
          error={!!unknown || naming.trim() === ''}
          helperText={
            unknown
              ? say`There is no field {${unknown}}.`
              : namesFields &&
                say`Fields: ${Object.keys(nameFields)
                  .map((field) => `{${field}}`)
                  .join(' ')}`
          }
          onFocus={() => setNamingFocus(true)}
          onBlur={() => setNamingFocus(false)}
          onChange={(event) => set({ naming: event.target.value })}
          slotProps={{ formHelperText: { sx: { mx: 0, fontSize: 11 } } }}
        />
        <WithTheAudio hasMp3={formats.some(({ container }) => container === 'mp3')} />
        <TextField
          select
          size="small"
          label={say`Where to`}
          value={options.destination}
          onChange={(event) => set({ destination: event.target.value as Destination })}
          helperText={
            canUseFolders()
              ? undefined
              : say`Folders cannot be had in this browser: files go to the downloads.`
          }
          slotProps={{ formHelperText: { sx: { mx: 0, fontSize: 11 } } }}
        >
          <MenuItem value="archive">{say`One archive (zip) among the downloads`}</MenuItem>
          <MenuItem value="single">{say`Single files among the downloads`}</MenuItem>
          <MenuItem
            value="folder"
            disabled={!canUseFolders()}
          >{say`A folder${canUseFolders() ? '' : say`: not in this browser`}`}</MenuItem>
        </TextField>
        <PlannedFiles files={plan.files} texts={texts} />
        <MailWarning files={plan.files} limitMb={project.spec.limits.fileMegabytes?.max ?? null} />
      </Box>
      <Box
        sx={{
          p: 2.25,
          pt: 1.5,
          borderTop: 1,
          borderColor: 'divider',
          display: 'flex',
          flexDirection: 'column',
          gap: 1,
        }}
      >
        {report && (
          <Button
            size="small"
            color="secondary"
            onClick={() => showExported(true)}
          >{say`Last export: ${report.files.filter(filePasses).length} of ${report.files.length} files pass`}</Button>
        )}
        <Button
          variant="outlined"
          color="inherit"
          disabled={busy}
          onClick={() => void saveProjectFile(project.id, project.name)}
        >{say`Save a project file`}</Button>
        <Button
          variant="contained"
          size="large"
          disabled={busy || plan.files.length === 0 || !!unknown || naming.trim() === ''}
          onClick={() => {
            set({ scope: usedScope });
            void exportNow();
          }}
        >{say`Export ${plan.files.length === 1 ? say`1 file` : say`${plan.files.length} files`}${plan.files.length + texts > 1 && options.destination === 'archive' ? say` in one archive` : ''}`}</Button>
        {failing > 0 && (
          <Typography color="text.secondary" variant="body2">
            {say`${failing === 1 ? say`1 part does` : say`${failing} parts do`} not pass. Everything can be exported all the same; the report will say so.`}
          </Typography>
        )}
      </Box>
      {report && <ExportResult report={report} open={shown} onClose={() => showExported(false)} />}
    </Box>
  );
}

function PlannedFiles({ files, texts }: { files: PlannedFile[]; texts: number }) {
  const total = files.reduce((sum, file) => sum + file.bytes, 0);
  const guess = files.some(({ format }) => !isSizeKnown(format));
  return (
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
        {say`Will be written: ${files.length === 1 ? say`1 file` : say`${files.length} files`} · `}
        {guess && say`about `}
        {formatBytes(total)}
        {texts > 0 && say` · ${texts} texts`}
      </Box>
      {files.map((file) => (
        <Box key={file.fileName} sx={{ overflowWrap: 'anywhere', py: 0.25 }} data-testid="planned-file">
          {file.fileName} · {formatBytes(file.bytes)}
        </Box>
      ))}
    </Box>
  );
}

/** Files too large for a mail, and what would fit. */
function MailWarning({ files, limitMb }: { files: PlannedFile[]; limitMb: number | null }) {
  const limit = limitMb === null ? usualMailBytes : limitMb * 1e6;
  const over = files.filter(({ bytes }) => bytes >= limit);
  if (over.length === 0) return null;
  const longest = Math.max(...over.map(({ seconds }) => seconds));
  const fitting = bitRateThatFits(longest, limit);
  return (
    <Typography variant="body2" role="note" sx={{ color: 'warning.main' }}>
      {say`${over.length === 1 ? over[0].fileName : say`${over.length} files`} ${over.length === 1 ? say`is` : say`are`} over ${formatBytes(limit)}, ${limitMb === null ? say`the usual mail limit` : say`the limit of the spec`}. ${
        fitting === null
          ? say`No bit rate makes it fit: send a link, or split the part.`
          : say`As MP3 at ${fitting} kbit/s it would fit.`
      }`}
    </Typography>
  );
}

const mostCoverBytes = 5e6;

const companions = {
  report: say`Proof report, with several files`,
  marksCsv: say`Marks as CSV`,
  marksVtt: say`Marks as WebVTT`,
  script: say`Script with times`,
} as const;
type Companion = keyof typeof companions;

/** What goes with the audio: report, marks, script, a cover picture. */
function WithTheAudio({ hasMp3 }: { hasMp3: boolean }) {
  const options = useExportOptions();
  const { getInputProps, open } = useDropzone({
    accept: { 'image/jpeg': ['.jpg', '.jpeg'], 'image/png': ['.png'] },
    multiple: false,
    noClick: true,
    onDrop: ([file]) => void (file && takeCover(file)),
    onDropRejected: () => notify('error', say`A cover is a JPEG or PNG picture.`, 'proof'),
  });
  const keys = Object.keys(companions) as Companion[];
  const chosen = keys.filter((key) => options[key]);
  return (
    <>
      <TextField
        select
        size="small"
        label={say`With the audio`}
        value={chosen}
        slotProps={{
          select: {
            multiple: true,
            displayEmpty: true,
            renderValue: () =>
              chosen.map((key) => companions[key].replace(/,.*/, '')).join(' · ') || say`nothing`,
          },
          inputLabel: { shrink: true },
        }}
        onChange={(event) => {
          const now = event.target.value as unknown as Companion[];
          set(Object.fromEntries(keys.map((key) => [key, now.includes(key)])));
        }}
      >
        {keys.map((key) => (
          <MenuItem key={key} value={key}>
            <Checkbox size="small" checked={options[key]} sx={{ py: 0 }} />
            {companions[key]}
          </MenuItem>
        ))}
      </TextField>
      {hasMp3 && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 14, my: -1 }}>
          <input {...getInputProps()} aria-label={say`Cover picture`} />
          {options.cover ? say`Cover: ${options.cover.name}` : say`No cover picture`}
          <Button size="small" color="secondary" onClick={options.cover ? () => set({ cover: null }) : open}>
            {options.cover ? say`Take off` : say`Choose a cover`}
          </Button>
        </Box>
      )}
    </>
  );
}

async function takeCover(file: File) {
  if (file.size > mostCoverBytes)
    return notify('error', say`The cover is over 5 MB: make it smaller, it goes into every file.`, 'proof');
  const mime = file.type === 'image/png' ? ('image/png' as const) : ('image/jpeg' as const);
  set({ cover: { name: file.name, cover: { mime, bytes: new Uint8Array(await file.arrayBuffer()) } } });
}
