'use client';
import Box from '@mui/material/Box';
import { timecodeAt } from '@/core/cues/cueCsv';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import { useCues } from '@/state/cues/cues';
import { useTransport } from '@/state/hearing/transport';
import { useView } from '@/state/page/view';
import { rateOfProject, useProject } from '@/state/project/openProject';
import { cueSettings } from '@/state/project/settings';
import { usePart } from '@/state/sheet/part';
import { serif } from '../../theme/theme';
import { CueSweep } from './CueSweep';

/** The chosen cue, large, with what counts the talent in; above the sheet while cues are worked on. */
export function CueStage() {
  const sheet = usePart((state) => cueSheetOf(state.timeline));
  const chosen = useCues((state) => state.chosen);
  const running = useTransport((state) => state.cueRun);
  const listed = useView((state) => state.panel === 'cues');
  useProject((state) => state.project?.recording);
  const cue = running?.cue ?? sheet.cues.find(({ id }) => id === chosen);
  if (!cue || (!listed && !running)) return null;
  const name = sheet.characters.find(({ id }) => id === cue.character)?.name;
  return (
    <Box
      component="section"
      aria-label={`Cue ${cue.number}`}
      data-testid="cue-stage"
      sx={{
        position: 'relative',
        flexShrink: 0,
        overflow: 'hidden',
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
        px: 9,
        py: 2,
        minHeight: 118,
        textAlign: 'center',
      }}
    >
      <Box sx={{ fontSize: 13, color: 'text.secondary' }}>
        <Box component="span" sx={{ fontFamily: serif, fontStyle: 'italic', fontSize: 15 }}>
          {name ?? 'nobody’s'}
        </Box>{' '}
        · {timecodeAt(cue.from, sheet, rateOfProject())}
      </Box>
      <Box
        sx={{
          fontFamily: serif,
          fontSize: cue.text.length > 160 ? 18 : 24,
          lineHeight: 1.35,
          maxHeight: 132,
          overflowY: 'auto',
          overflowWrap: 'anywhere',
        }}
      >
        {cue.text || 'No words yet.'}
      </Box>
      {running && <CueSweep run={running} sweep={cueSettings().sweep} />}
    </Box>
  );
}
