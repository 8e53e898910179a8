'use client';
import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import RadioButtonChecked from '@mui/icons-material/RadioButtonChecked';
import RadioButtonUnchecked from '@mui/icons-material/RadioButtonUnchecked';
import { useEffect } from 'react';
import type { Cue } from '@/core/timeline/cues';
import { stopToEdit } from '@/state/hearing/playing';
import { useTransport } from '@/state/hearing/transport';
import { useProject, type SourceRecord } from '@/state/project/openProject';
import { figuresKey, measureTakes, useCueFigures } from '@/state/recording/cueFigures';
import { takesOfCue } from '@/state/recording/cuePlan';
import { chosenTake, hearTakeOfCue, nameOfTake } from '@/state/recording/cueTakes';
import { fitTake } from '@/state/recording/fitting';
import { changeTake, takeLength } from '@/state/recording/takes';
import { usePart } from '@/state/sheet/part';
import { useKeyText } from '../../commands/keys';
import { circledNumber } from '../../components/circledNumber';
import { tellFigures } from './cueWords';

/** The takes of a cue: which is heard, which are circled. */
export function CueTakes({ cue }: { cue: Cue }) {
  usePart((state) => state.timeline);
  const sources = useProject((state) => state.sources);
  const takes = takesOfCue(cue, sources.values());
  if (takes.length === 0) return null;
  const heard = chosenTake(cue);
  return <Measured cue={cue} takes={takes} heard={heard} />;
}

function Measured({ cue, takes, heard }: { cue: Cue; takes: SourceRecord[]; heard: string | null }) {
  const guides = usePart((state) => state.timeline.guides);
  const places = usePart((state) => state.timeline.places);
  const idle = useTransport((state) => state.mode === 'idle');
  const ids = takes.map(({ id }) => id).join();
  useEffect(() => {
    if (idle) void measureTakes(cue, takes);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the takes are those of the ids
  }, [cue, ids, guides, places, idle]);
  return (
    <Box
      component="ul"
      aria-label={say`Takes of cue ${cue.number}`}
      sx={{ listStyle: 'none', m: 0, p: 0, pl: 5.5, pr: 1, pb: 1 }}
    >
      {takes.map((take) => (
        <Take key={take.id} cue={cue} take={take} heard={take.id === heard} />
      ))}
    </Box>
  );
}

function Take({ cue, take, heard }: { cue: Cue; take: SourceRecord; heard: boolean }) {
  const loudness = take.summary?.loudnessLufs;
  const figures = useCueFigures((state) => state.figures.get(figuresKey(cue, take)));
  const told = [
    `${decimal(takeLength(take) / take.rateHz, 1)} s`,
    loudness == null ? '' : `${decimal(loudness, 0)} LUFS`,
    ...(figures ? tellFigures(figures) : []),
    take.cue === cue.id ? '' : take.name,
    take.note ?? '',
  ].filter(Boolean);
  const keyText = useKeyText();
  const name = nameOfTake(cue, take);
  return (
    <Box component="li" sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
      <Button
        size="small"
        color="inherit"
        aria-pressed={heard}
        aria-label={say`Hear ${name}`}
        title={heard ? say`This one is heard` : say`Let this one be heard`}
        onClick={() => stopToEdit() && hearTakeOfCue(cue, take)}
        sx={{
          minWidth: 0,
          px: 0.75,
          py: 0.25,
          fontWeight: heard ? 700 : 400,
          color: heard ? 'text.primary' : 'text.secondary',
        }}
      >
        {take.cue === cue.id ? circledNumber(take.take) : '↔'}
      </Button>
      <Box sx={{ flex: 1, minWidth: 0, fontSize: 12.5, color: heard ? undefined : 'text.secondary' }}>
        {told.join(' · ')}
        {heard && <b>{say` · heard`}</b>}
      </Box>
      <Button
        size="small"
        color="inherit"
        aria-label={say`Fit ${name}`}
        title={say`Begins with the guide and lasts as long${heard ? ` · ${keyText('cueFit')}` : ''}`}
        onClick={() => stopToEdit() && void fitTake(cue, take)}
        sx={{ minWidth: 0, px: 0.75, py: 0.25, fontSize: 12.5 }}
      >{say`Fit`}</Button>
      <IconButton
        size="small"
        aria-label={take.circled ? say`Take the circle off ${name}` : say`Circle ${name}`}
        aria-pressed={take.circled ?? false}
        onClick={() => changeTake(take, { circled: !take.circled })}
        sx={{ color: take.circled ? 'primary.main' : 'text.secondary' }}
      >
        {take.circled ? <RadioButtonChecked fontSize="small" /> : <RadioButtonUnchecked fontSize="small" />}
      </IconButton>
    </Box>
  );
}
