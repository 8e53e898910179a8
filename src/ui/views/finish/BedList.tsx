import { say } from '@/texts/say';
import Add from '@mui/icons-material/Add';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useDropzone } from 'react-dropzone';
import { useState } from 'react';
import { bedsOf } from '@/core/timeline/mixEdits';
import type { Timeline } from '@/core/timeline/timeline';
import { addSound } from '@/state/mix/bedFiles';
import { removeBedOf, renameBedOf } from '@/state/mix/beds';
import { useProject } from '@/state/project/openProject';
import { NameDialog } from '../../components/NameDialog';
import { ClipSentence } from './ClipSentence';
import { DuckSentence } from './DuckSentence';

/** The beds of the part, each with its sounds in sentences whose values are changed in place. */
export function BedList({ timeline }: { timeline: Timeline }) {
  const beds = bedsOf(timeline);
  const readOnly = useProject((state) => state.readOnly);
  const [naming, setNaming] = useState<string | null>(null);
  const named = beds.find(({ id }) => id === naming);
  return (
    <Box component="section" aria-label={say`Beds of this part`}>
      {beds.map(({ id, name, clips }) => (
        <Box key={id} sx={{ mb: 2.5 }}>
          <Box sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'baseline', columnGap: 1 }}>
            <Typography
              variant="h3"
              component="h2"
              sx={{ flex: '1 1 auto', maxWidth: '100%', overflow: 'hidden', textOverflow: 'ellipsis' }}
            >
              {name}
            </Typography>
            <Button
              size="small"
              color="inherit"
              disabled={readOnly}
              onClick={() => setNaming(id)}
            >{say`Rename`}</Button>
            <Button
              size="small"
              color="inherit"
              disabled={readOnly}
              onClick={() => removeBedOf(id)}
            >{say`Remove`}</Button>
          </Box>
          {clips.map((clip, index) => (
            <ClipSentence
              key={clip.id}
              clip={clip}
              timeline={timeline}
              name={clips.length > 1 ? say`Sound ${index + 1}` : say`It`}
              several={clips.length > 1}
              disabled={readOnly}
            />
          ))}
          <DuckSentence stripId={id} of="bed" timeline={timeline} disabled={readOnly} />
          <SoundButton
            label={clips.length === 0 ? say`Its sound` : say`Another sound at the caret`}
            bedId={id}
            disabled={readOnly}
          />
        </Box>
      ))}
      <SoundButton
        label={beds.length === 0 ? say`Add music or atmosphere` : say`Add another bed`}
        bedId={null}
        disabled={readOnly}
      />
      {beds.length === 0 && (
        <Typography
          variant="body2"
          color="text.secondary"
          sx={{ mt: 1.5 }}
        >{say`A bed lies under the voices in the time that is heard: striking and closing up never cut it. Its sounds hold on to a word, a mark, a line or each other.`}</Typography>
      )}
      {named && (
        <NameDialog
          title={say`Name of the bed`}
          initial={named.name}
          action={say`Rename`}
          onClose={() => setNaming(null)}
          onName={(name) => renameBedOf(named.id, name)}
        />
      )}
    </Box>
  );
}

function SoundButton({ label, bedId, disabled }: { label: string; bedId: string | null; disabled: boolean }) {
  const { getInputProps, open } = useDropzone({
    noDrag: true,
    noClick: true,
    noKeyboard: true,
    multiple: false,
    onDrop: ([file]) => {
      if (file) void addSound(file, bedId);
    },
  });
  return (
    <Box sx={{ mt: 0.5, ml: -0.5 }}>
      <input {...getInputProps({ 'aria-label': label })} />
      <Button size="small" startIcon={<Add />} disabled={disabled} onClick={open}>
        {label} …
      </Button>
    </Box>
  );
}
