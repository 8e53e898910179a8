'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import Slider from '@mui/material/Slider';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { recordSettings, setRecordSettings } from '@/state/project/settings';
import { useProject } from '@/state/project/openProject';
import { useTransport } from '@/state/hearing/transport';
import { OptionsButton } from '../../components/OptionsButton';

const runUpSeconds = { shortest: 0.5, longest: 15 };
const longestFixedSeconds = 4 * 3600;

/** The options of Record; those that change what is recorded are named on its button as well. */
export function RecordOptions() {
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useProject((state) => state.readOnly);
  useProject((state) => state.project?.recording);
  const settings = recordSettings();
  return (
    <OptionsButton
      text={say`Run-up ${settings.runUpSeconds} s`}
      title={say`Run-up (pre-roll), count-in, length, what is heard meanwhile, several parts in one go`}
      name={say`How Record works`}
      disabled={!idle || readOnly}
    >
      <Typography variant="h3">{say`Run-up`}</Typography>
      <Typography
        variant="body2"
        color="text.secondary"
      >{say`Heard before the punch (pre-roll), for Retake, Insert and Patch.`}</Typography>
      <Slider
        value={settings.runUpSeconds}
        min={runUpSeconds.shortest}
        max={runUpSeconds.longest}
        step={0.5}
        marks={[
          { value: 0.5, label: '0.5 s' },
          { value: 5, label: '5 s' },
          { value: 15, label: '15 s' },
        ]}
        valueLabelDisplay="auto"
        onChange={(_, value) => setRecordSettings({ runUpSeconds: value as number })}
        aria-label={say`Run-up in seconds`}
      />
      <Typography variant="h3" sx={{ mt: 1.5 }}>{say`Count-in`}</Typography>
      <RadioGroup
        row
        value={settings.countIn}
        onChange={(_, value) => setRecordSettings({ countIn: value as typeof settings.countIn })}
        aria-label={say`Count-in`}
      >
        <FormControlLabel value="none" control={<Radio size="small" />} label={say`None`} />
        <FormControlLabel value="beeps" control={<Radio size="small" />} label={say`Three beeps`} />
        <FormControlLabel value="sweep" control={<Radio size="small" />} label={say`Sweep`} />
      </RadioGroup>
      <FixedLength />
      <Typography variant="h3" sx={{ mt: 1.5 }}>{say`A patch has`}</Typography>
      <RadioGroup
        row
        value={settings.patchLength}
        onChange={(_, value) => setRecordSettings({ patchLength: value as typeof settings.patchLength })}
        aria-label={say`Length of a patch`}
      >
        <FormControlLabel
          value="selection"
          control={<Radio size="small" />}
          label={say`the selection’s length`}
        />
        <FormControlLabel value="reading" control={<Radio size="small" />} label={say`its own`} />
      </RadioGroup>
      <FormControlLabel
        sx={{ mt: 1 }}
        control={
          <Switch
            checked={settings.hearOthers !== false}
            onChange={(_, hearOthers) => setRecordSettings({ hearOthers })}
          />
        }
        label={say`Hear the other tracks while recording`}
      />
      <FormControlLabel
        control={
          <Switch
            checked={settings.keepGoing}
            onChange={(_, keepGoing) => setRecordSettings({ keepGoing })}
          />
        }
        label={say`Record and keep going: P starts the next part`}
      />
    </OptionsButton>
  );
}

function FixedLength() {
  const { fixedSeconds } = recordSettings();
  const [text, setText] = useState(fixedSeconds === null ? '' : String(fixedSeconds));
  const value = Number(text.replace(',', '.'));
  const wrong = text.trim() !== '' && !(value > 0 && value <= longestFixedSeconds);
  return (
    <Box sx={{ mt: 1.5 }}>
      <TextField
        size="small"
        fullWidth
        label={say`Stop by itself after (seconds)`}
        placeholder={say`never`}
        value={text}
        error={wrong}
        helperText={wrong ? say`A length in seconds, up to four hours; empty for never.` : ' '}
        onChange={(event) => {
          setText(event.target.value);
          const next = Number(event.target.value.replace(',', '.'));
          if (event.target.value.trim() === '') setRecordSettings({ fixedSeconds: null });
          else if (next > 0 && next <= longestFixedSeconds) setRecordSettings({ fixedSeconds: next });
        }}
      />
    </Box>
  );
}
