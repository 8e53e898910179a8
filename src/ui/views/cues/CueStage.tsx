'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import { useEffect } from 'react';
import { timecodeAt } from '@/core/cues/cueCsv';
import type { Cue } from '@/core/timeline/cues';
import { showFilm } from '@/state/hearing/film';
import { useFilmWindow } from '@/state/hearing/filmWindow';
import { useView } from '@/state/page/view';
import { rateOfProject } from '@/state/project/openProject';
import { cueSettings } from '@/state/project/settings';
import { serif } from '../../theme/theme';
import { CueSweep } from './CueSweep';
import { FilmStage } from './FilmStage';
import { useStaged, type Staged } from './useStaged';

/** Above the sheet: the picture, or the chosen cue large while cues are worked on. */
export function CueStage() {
  const staged = useStaged();
  const { film, cue, running } = staged;
  const listed = useView((state) => state.panel === 'cues');
  const shown = useView((state) => state.film);
  const elsewhere = useFilmWindow((state) => state.view !== null);
  const source = film?.source ?? null;
  useEffect(() => void showFilm(source), [source]);
  if (film && shown && !elsewhere) return <FilmStage {...staged} film={film} height="min(40vh, 330px)" />;
  return cue && (listed || running) ? <PaperStage {...staged} cue={cue} /> : null;
}

/** The cue on paper, where there is no picture. */
function PaperStage({ cue, running, sheet }: Staged & { cue: Cue }) {
  const name = sheet.characters.find(({ id }) => id === cue.character)?.name;
  return (
    <Box
      component="section"
      aria-label={say`Cue ${cue.number}`}
      data-testid="stage"
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
          {name ?? say`nobody’s`}
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
        {cue.text || say`No words yet.`}
      </Box>
      {running && <CueSweep run={running} sweep={cueSettings().sweep} />}
    </Box>
  );
}
