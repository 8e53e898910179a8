'use client';
import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useMemo } from 'react';
import { timecodeAt } from '@/core/cues/cueCsv';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import { cueStates, type CueState } from '@/core/timeline/cueState';
import type { Cue, CueSheet } from '@/core/timeline/cues';
import { chooseCue, isListed, openCueSheet, useCues } from '@/state/cues/cues';
import { stopToEdit } from '@/state/hearing/playing';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';
import { useKeyText } from '../../commands/keys';
import { VirtualList } from '../../components/VirtualList';
import { serif } from '../../theme/theme';
import { CueTakes } from './CueTakes';
import { CueFilters } from './CueFilters';
import { cueStateNames } from './cueWords';

/** The cues of the part in order of time: choose one, see what is still to do. */
export function CueList() {
  const timeline = usePart((state) => state.timeline);
  const chosen = useCues((state) => state.chosen);
  const character = useCues((state) => state.character);
  const toDoOnly = useCues((state) => state.toDoOnly);
  const keyText = useKeyText();
  const sheet = cueSheetOf(timeline);
  const states = useMemo(() => cueStates(timeline), [timeline]);
  const cues = useMemo(
    () => sheet.cues.filter((cue) => isListed(cue, { character, toDoOnly })),
    [sheet.cues, character, toDoOnly],
  );
  if (sheet.cues.length === 0)
    return (
      <Box sx={{ p: 2.5 }}>
        <Typography
          color="text.secondary"
          sx={{ mb: 1.5 }}
        >{say`No cues. Where each line has its place in time (dialogue to a picture, prompts), a list of cues says what is to be read where.`}</Typography>
        <Button
          variant="outlined"
          size="small"
          onClick={openCueSheet}
        >{say`Cue sheet … ${keyText('cueSheet')}`}</Button>
      </Box>
    );
  return (
    <>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 1,
          px: 1.5,
          py: 1,
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <CueFilters />
        <Button
          size="small"
          onClick={openCueSheet}
          sx={{ ml: 'auto', minWidth: 0, whiteSpace: 'nowrap' }}
        >{say`Cue sheet …`}</Button>
      </Box>
      {cues.length === 0 ? (
        <Typography color="text.secondary" sx={{ p: 2.5 }}>
          {toDoOnly ? say`Nothing is left to do here.` : say`This character has no cues.`}
        </Typography>
      ) : (
        <VirtualList
          items={cues}
          keyOf={({ id }) => id}
          nameOf={({ number }) => say`Cue ${number}`}
          estimate={({ text }) => 60 + 21 * Math.ceil(Math.min(text.length, 400) / 30)}
          row={(cue) => (
            <Box
              sx={{
                borderLeft: 3,
                borderColor: cue.id === chosen ? 'primary.main' : 'transparent',
                bgcolor: cue.id === chosen ? 'page.wash' : undefined,
              }}
            >
              <CueRow
                cue={cue}
                sheet={sheet}
                state={states.get(cue.id) ?? 'toDo'}
                chosen={cue.id === chosen}
              />
              {cue.id === chosen && <CueTakes cue={cue} />}
            </Box>
          )}
          what={say`This cue`}
          label={say`Cues`}
          current={cues.findIndex(({ id }) => id === chosen)}
        />
      )}
    </>
  );
}

interface RowProps {
  cue: Cue;
  sheet: CueSheet;
  state: CueState;
  chosen: boolean;
}

function CueRow({ cue, sheet, state, chosen }: RowProps) {
  const rateHz = useProject((project) => project.project?.rateHz ?? 48_000);
  const name = sheet.characters.find(({ id }) => id === cue.character)?.name;
  return (
    <ButtonBase
      onClick={() => stopToEdit() && chooseCue(cue.id)}
      aria-current={chosen}
      sx={{
        display: 'flex',
        alignItems: 'flex-start',
        gap: 1.25,
        width: '100%',
        textAlign: 'left',
        fontFamily: 'inherit',
        pl: 1.75,
        pr: 1.5,
        py: 1,
      }}
    >
      <Box sx={{ minWidth: 22, fontWeight: 700, fontSize: 13, pt: 0.25 }}>{cue.number}</Box>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Box sx={{ display: 'flex', gap: 1, fontSize: 12.5, color: 'text.secondary' }}>
          <Box sx={{ flex: 1, minWidth: 0, fontFamily: serif, fontStyle: 'italic', fontSize: 14 }}>
            <Typography noWrap sx={{ font: 'inherit' }}>
              {name ?? say`nobody’s`}
            </Typography>
          </Box>
          {state !== 'toDo' && (
            <Box sx={{ color: state === 'done' ? 'success.main' : undefined }}>
              {state === 'done' ? say`done ✓` : cueStateNames.recorded}
            </Box>
          )}
        </Box>
        <Box sx={{ fontSize: 12.5, color: 'text.secondary', fontVariantNumeric: 'tabular-nums' }}>
          {timecodeAt(cue.from, sheet, rateHz)} · {decimal((cue.to - cue.from) / rateHz, 1)} s
        </Box>
        <Box
          sx={{
            fontFamily: serif,
            fontSize: 15.5,
            lineHeight: 1.35,
            overflowWrap: 'anywhere',
            display: '-webkit-box',
            WebkitBoxOrient: 'vertical',
            WebkitLineClamp: chosen ? 40 : 4,
            overflow: 'hidden',
          }}
        >
          {cue.text || <Box sx={{ color: 'text.secondary', fontStyle: 'italic' }}>{say`no words yet`}</Box>}
        </Box>
        {chosen && cue.note && (
          <Box sx={{ fontSize: 12.5, color: 'text.secondary', mt: 0.25 }}>{cue.note}</Box>
        )}
      </Box>
    </ButtonBase>
  );
}
