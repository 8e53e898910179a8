import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { duckingLimits, type Ducking } from '@/core/timeline/ducking';
import { stripOf } from '@/core/timeline/mixEdits';
import type { Timeline } from '@/core/timeline/timeline';
import { duck, duckingOf, neverDuck } from '@/state/mix/ducking';
import { useJob } from '@/state/page/jobs';
import { ValueInPlace } from '../../components/ValueInPlace';

interface Props {
  /** A bed, which goes down under speech, or a voice, which does so while only others speak. */
  stripId: string;
  of: 'bed' | 'voice';
  timeline: Timeline;
  disabled: boolean;
}

const texts = {
  bed: {
    offer: say`Let it go down under speech`,
    group: say`Under speech`,
    begins: say`Under speech it goes down`,
    never: say`Do not go down`,
  },
  voice: {
    offer: say`Softer while only others speak`,
    group: say`While only others speak`,
    begins: say`While only others speak it goes down`,
    never: say`Leave it as loud`,
  },
};

/** How a strip goes down by itself; a value that is changed writes its level points anew. */
export function DuckSentence({ stripId, of, timeline, disabled }: Props) {
  const strip = stripOf(timeline, stripId);
  const busy = useJob((state) => state.job !== null);
  const off = disabled || busy;
  const ducking = strip.ducking ?? duckingOf(stripId);
  const { offer, group, begins, never } = texts[of];
  const value = (name: keyof Ducking, label: string, unit: string, step: number) => (
    <ValueInPlace
      label={label}
      value={ducking[name]}
      unit={unit}
      step={step}
      lowest={duckingLimits[name].from}
      highest={duckingLimits[name].to}
      disabled={off}
      onChange={(next) => void duck(stripId, { ...ducking, [name]: next })}
    />
  );
  if (!strip.ducking)
    return (
      <Button size="small" variant="outlined" disabled={off} onClick={() => void duck(stripId)}>
        {offer}
      </Button>
    );
  return (
    <Box role="group" aria-label={group} sx={{ fontSize: 14, lineHeight: 1.75 }}>
      {begins} {value('amountDb', say`How far it goes down`, 'dB', 0.5)}
      {say` within `}
      {value('downSeconds', say`How fast it goes down`, 's', 0.1)}
      {say`, waits `}
      {value('waitSeconds', say`How long it waits`, 's', 0.1)}
      {say` and comes back in `}
      {value('upSeconds', say`How fast it comes back`, 's', 0.1)}.
      <Box sx={{ display: 'flex', gap: 0.5, ml: -0.75 }}>
        <Button
          size="small"
          color="inherit"
          disabled={off}
          onClick={() => void duck(stripId)}
        >{say`Write anew`}</Button>
        <Button size="small" color="inherit" disabled={off} onClick={() => neverDuck(stripId)}>
          {never}
        </Button>
      </Box>
    </Box>
  );
}
