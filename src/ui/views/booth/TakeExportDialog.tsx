'use client';
import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import Switch from '@mui/material/Switch';
import { useState } from 'react';
import type { FileFormat } from '@/core/specs/fileFormat';
import { rateOfProject, useProject, type SourceRecord } from '@/state/project/openProject';
import { ChoiceField } from '../../components/ChoiceField';
import { exportTakes } from '@/state/files/takeFiles';

const encodings = {
  float32: 'WAV · 32-bit float, as recorded',
  pcm24: 'WAV · 24-bit',
  pcm16: 'WAV · 16-bit',
} as const;

/** Writes takes to files of their own, at the rate they were recorded. */
export function TakeExportDialog({
  takes,
  onClose,
}: {
  takes: readonly SourceRecord[];
  onClose: () => void;
}) {
  const spec = useProject((state) => state.project?.spec);
  const [encoding, setEncoding] = useState<keyof typeof encodings>('pcm24');
  const [position, setPosition] = useState(true);
  if (!spec) return null;
  const format = { ...spec.file, container: 'wav', encoding, rateHz: rateOfProject() } as FileFormat;
  return (
    <Dialog open onClose={onClose} maxWidth="xs" fullWidth>
      <DialogTitle>{say`Export ${takes.length === 1 ? takes[0].name : say`${takes.length} takes`}`}</DialogTitle>
      <DialogContent>
        <ChoiceField
          label={say`Format`}
          value={encoding}
          choices={encodings}
          onChange={setEncoding}
          margin="dense"
        />
        <FormControlLabel
          control={<Switch checked={position} onChange={(_, on) => setPosition(on)} />}
          label={say`With its time position (Broadcast WAV)`}
        />
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>{say`Cancel`}</Button>
        <Button
          variant="contained"
          onClick={() => {
            onClose();
            void exportTakes(takes, format, position);
          }}
        >{say`Export`}</Button>
      </DialogActions>
    </Dialog>
  );
}
