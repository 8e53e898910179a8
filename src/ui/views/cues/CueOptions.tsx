'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import Slider from '@mui/material/Slider';
import Switch from '@mui/material/Switch';
import Typography from '@mui/material/Typography';
import { cueSettingLimits, type CueSettings } from '@/core/recording/cueSettings';
import { guidesOf } from '@/core/timeline/guides';
import { useTransport } from '@/state/hearing/transport';
import { useProject } from '@/state/project/openProject';
import { cueSettings, setCueSettings } from '@/state/project/settings';
import { usePart } from '@/state/sheet/part';
import { OptionsButton } from '../../components/OptionsButton';

/** How cues are recorded; in sight on its button. */
export function CueOptions() {
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useProject((state) => state.readOnly);
  const several = usePart((state) => state.timeline.tracks.length > 1);
  const guided = usePart((state) => guidesOf(state.timeline).length > 0);
  useProject((state) => state.project?.recording);
  const settings = cueSettings();
  const told = [`${settings.runUpSeconds} s`, settings.beeps && 'beeps', settings.sweep && 'sweep'].filter(
    Boolean,
  );
  return (
    <OptionsButton
      text={told.join(' · ')}
      label={say`Run-up ${told.join(' · ')}`}
      title={say`Run-up, beeps, sweep, where the recording ends and what follows`}
      name={say`How cues are recorded`}
      disabled={!idle || readOnly}
    >
      <Seconds
        title={say`Run-up`}
        text={say`Heard and seen before the line begins.`}
        value={settings.runUpSeconds}
        limits={cueSettingLimits.runUpSeconds}
        onChange={(runUpSeconds) => setCueSettings({ runUpSeconds })}
      />
      <FormControlLabel
        control={<Switch checked={settings.beeps} onChange={(_, beeps) => setCueSettings({ beeps })} />}
        label={say`Three beeps; the line begins where the fourth would be`}
      />
      <FormControlLabel
        control={<Switch checked={settings.sweep} onChange={(_, sweep) => setCueSettings({ sweep })} />}
        label={say`A sweep towards the beginning`}
      />
      {several && (
        <Choice
          title={say`Recorded is`}
          value={settings.voices}
          choices={{ own: say`who speaks it`, armed: say`every armed track` }}
          onChange={(voices) => setCueSettings({ voices })}
        />
      )}
      <Choice
        title={say`The recording`}
        value={settings.end}
        choices={{ out: say`ends after the line`, on: say`runs on until it is stopped` }}
        onChange={(end) => setCueSettings({ end })}
      />
      {settings.end === 'out' && (
        <Seconds
          title={say`Run-out`}
          text={say`Recorded after the line’s end.`}
          value={settings.runOutSeconds}
          limits={cueSettingLimits.runOutSeconds}
          onChange={(runOutSeconds) => setCueSettings({ runOutSeconds })}
        />
      )}
      <Choice
        title={say`After it has ended`}
        value={settings.then}
        choices={{ stay: say`stay at the cue`, next: say`next one to do`, play: say`play on` }}
        onChange={(then) => setCueSettings({ then })}
      />
      <Seconds
        title={say`Fitting changes the speed by at most`}
        text={say`Pauses are changed first; the pitch stays.`}
        unit="%"
        step={1}
        value={Math.round(settings.stretch * 100)}
        limits={{ least: cueSettingLimits.stretch.least, most: cueSettingLimits.stretch.most * 100 }}
        onChange={(percent) => setCueSettings({ stretch: percent / 100 })}
      />
      {guided && (
        <Choice
          title={say`While the line is said the guide is`}
          value={settings.guide}
          choices={{ heard: say`heard`, off: say`off` }}
          onChange={(guide) => setCueSettings({ guide })}
        />
      )}
    </OptionsButton>
  );
}

interface SecondsProps {
  title: string;
  text: string;
  unit?: string;
  step?: number;
  value: number;
  limits: { readonly least: number; readonly most: number };
  onChange: (value: number) => void;
}

function Seconds({ title, text, unit = 's', step = 0.5, value, limits, onChange }: SecondsProps) {
  const { least, most } = limits;
  return (
    <Box sx={{ mt: 1.5 }}>
      <Typography variant="h3">
        {title} {value} {unit}
      </Typography>
      <Typography variant="body2" color="text.secondary">
        {text}
      </Typography>
      <Slider
        value={value}
        min={least}
        max={most}
        step={step}
        valueLabelDisplay="auto"
        onChange={(_, next) => onChange(next as number)}
        aria-label={unit === 's' ? say`${title} in seconds` : `${title} ${unit}`}
      />
    </Box>
  );
}

interface ChoiceProps<T extends string> {
  title: string;
  value: T;
  choices: Readonly<Record<T, string>>;
  onChange: (value: T) => void;
}

function Choice<T extends CueSettings[keyof CueSettings] & string>({
  title,
  value,
  choices,
  onChange,
}: ChoiceProps<T>) {
  return (
    <>
      <Typography variant="h3" sx={{ mt: 1.5 }}>
        {title}
      </Typography>
      <RadioGroup row value={value} onChange={(_, next) => onChange(next as T)} aria-label={title}>
        {(Object.keys(choices) as T[]).map((one) => (
          <FormControlLabel key={one} value={one} control={<Radio size="small" />} label={choices[one]} />
        ))}
      </RadioGroup>
    </>
  );
}
