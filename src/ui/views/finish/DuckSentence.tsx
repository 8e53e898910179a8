import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { duckingLimits, type Ducking } from '@/core/timeline/ducking';
import { stripOf } from '@/core/timeline/mixEdits';
import type { Timeline } from '@/core/timeline/timeline';
import { duck, duckingOf, neverDuck } from '@/state/mix/ducking';
import { useJob } from '@/state/page/jobs';
import { ValueInPlace } from '../../components/ValueInPlace';

interface Props {
  bedId: string;
  timeline: Timeline;
  disabled: boolean;
}

/** How a bed goes down under speech; a value that is changed writes its level points anew. */
export function DuckSentence({ bedId, timeline, disabled }: Props) {
  const strip = stripOf(timeline, bedId);
  const busy = useJob((state) => state.job !== null);
  const off = disabled || busy;
  const ducking = strip.ducking ?? duckingOf(bedId);
  const value = (name: keyof Ducking, label: string, unit: string, step: number) => (
    <ValueInPlace
      label={label}
      value={ducking[name]}
      unit={unit}
      step={step}
      lowest={duckingLimits[name].from}
      highest={duckingLimits[name].to}
      disabled={off}
      onChange={(next) => void duck(bedId, { ...ducking, [name]: next })}
    />
  );
  if (!strip.ducking)
    return (
      <Button size="small" variant="outlined" disabled={off} onClick={() => void duck(bedId)}>
        Let it go down under speech
      </Button>
    );
  return (
    <Box role="group" aria-label="Under speech" sx={{ fontSize: 14, lineHeight: 1.75 }}>
      Under speech it goes down {value('amountDb', 'How far it goes down', 'dB', 0.5)} within{' '}
      {value('downSeconds', 'How fast it goes down', 's', 0.1)}, waits{' '}
      {value('waitSeconds', 'How long it waits', 's', 0.1)} and comes back in{' '}
      {value('upSeconds', 'How fast it comes back', 's', 0.1)}.
      <Box sx={{ display: 'flex', gap: 0.5, ml: -0.75 }}>
        <Button size="small" color="inherit" disabled={off} onClick={() => void duck(bedId)}>
          Write anew
        </Button>
        <Button size="small" color="inherit" disabled={off} onClick={() => neverDuck(bedId)}>
          Do not go down
        </Button>
      </Box>
    </Box>
  );
}
