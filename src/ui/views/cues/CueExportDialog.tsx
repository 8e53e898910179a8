'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { CueDelivery, CueFileKind } from '@/core/delivery/cueFiles';
import { cueNameFields, unknownFields } from '@/core/formats/fileNames';
import { plainFormat, type FileFormat } from '@/core/specs/fileFormat';
import { exportCues, exportFilm, planCueFiles } from '@/state/files/cueExport';
import { rateOfProject, useProject } from '@/state/project/openProject';
import { ChoiceField } from '../../components/ChoiceField';
import { useStaged } from './useStaged';

const kinds: Readonly<Record<CueFileKind | 'film', string>> = {
  cues: say`each cue`,
  characters: say`each character, from the beginning of the picture`,
  tracks: say`each track, from the beginning of the picture`,
  film: say`the picture, with the new lines in it`,
};
const { film: _, ...soundKinds } = kinds;
const underLine: Readonly<Record<string, string>> = {
  '0': say`as it is`,
  '-12': say`12 dB softer`,
  '-20': say`20 dB softer`,
  '-60': say`off`,
};
const takeChoices: Readonly<Record<CueDelivery['takes'], string>> = {
  chosen: say`what is heard`,
  circled: say`circled takes, as recorded`,
  all: say`all takes, as recorded`,
};
const encodings = { pcm24: 'WAV · 24-bit', pcm16: 'WAV · 16-bit', float32: 'WAV · 32-bit float' } as const;
type Encoding = keyof typeof encodings;
const rates: Readonly<Record<string, string>> = { '44100': '44.1 kHz', '48000': '48 kHz', '96000': '96 kHz' };

const usualNaming: Readonly<Record<CueFileKind, string>> = {
  cues: '{project}_{cue}_{character}_{take}',
  characters: '{project}_{part}_{character}',
  tracks: '{project}_{part}_{character}',
};

/** Cues as files: which, in what form, under which names; what will be written is said before. */
export function CueExportDialog({ onClose }: { onClose: () => void }) {
  const spec = useProject((state) => state.project?.spec);
  const { film } = useStaged();
  const [chosen, setWhat] = useState<CueFileKind | 'film'>('cues');
  const what = chosen === 'film' ? 'cues' : chosen;
  const [under, setUnder] = useState('-20');
  const [takes, setTakes] = useState<CueDelivery['takes']>('chosen');
  const [encoding, setEncoding] = useState<Encoding>('pcm24');
  const [rateHz, setRateHz] = useState(String(rateOfProject()));
  const [naming, setNaming] = useState<string | null>(null);
  if (!spec) return null;
  const template = naming ?? usualNaming[what];
  const [unknown] = unknownFields(template, cueNameFields);
  const format = {
    ...plainFormat,
    container: 'wav',
    encoding,
    rateHz: Number(rateHz),
    broadcast: true,
  } as FileFormat;
  const delivery: CueDelivery = { what, takes, format, naming: template };
  const files = unknown === undefined ? planCueFiles(delivery) : [];
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle>{say`Cues as files`}</DialogTitle>
      <DialogContent>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2, pt: 1 }}>
          <ChoiceField
            label={say`A file for`}
            value={chosen}
            choices={film ? kinds : soundKinds}
            onChange={setWhat}
          />
          {chosen === 'film' && (
            <ChoiceField
              label={say`Its own sound while a line is heard`}
              value={under}
              choices={underLine}
              onChange={setUnder}
            />
          )}
          {chosen !== 'film' && (
            <>
              <ChoiceField
                label={say`Of each cue`}
                value={takes}
                choices={takeChoices}
                onChange={setTakes}
                disabled={what !== 'cues'}
              />
              <ChoiceField label={say`Format`} value={encoding} choices={encodings} onChange={setEncoding} />
              <ChoiceField label={say`Sample rate`} value={rateHz} choices={rates} onChange={setRateHz} />
              <TextField
                label={say`Names`}
                value={template}
                error={unknown !== undefined}
                helperText={
                  unknown === undefined
                    ? say`Fields: ${Object.keys(cueNameFields)
                        .map((field) => `{${field}}`)
                        .join(' ')}`
                    : say`There is no field {${unknown}}.`
                }
                onChange={(event) => setNaming(event.target.value)}
                sx={{ gridColumn: '1 / -1' }}
              />
            </>
          )}
        </Box>
        <Typography variant="body2" color="text.secondary" sx={{ mt: 2 }} role="status">
          {chosen === 'film'
            ? say`The pictures are copied as they are; the sound is coded anew, with all voices and the picture’s own sound.`
            : files.length === 0
              ? say`Nothing of this is recorded yet.`
              : say`${countOf(files.length)}, the first ${files[0].fileName}. Each says where it belongs on the timecode (Broadcast WAV).`}
        </Typography>
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>{say`Cancel`}</Button>
        <Button
          variant="contained"
          disabled={chosen !== 'film' && files.length === 0}
          onClick={() => {
            onClose();
            if (chosen !== 'film') void exportCues(delivery);
            else if (film) void exportFilm(film, Number(under));
          }}
        >
          {chosen === 'film' ? say`Write the film` : say`Write ${countOf(files.length)}`}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const countOf = (files: number) => (files === 1 ? say`1 file` : say`${files} files`);
