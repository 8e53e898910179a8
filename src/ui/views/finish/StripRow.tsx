import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Slider from '@mui/material/Slider';
import ToggleButton from '@mui/material/ToggleButton';
import { useState } from 'react';
import { stripLimits } from '@/core/timeline/mix';
import { useListening } from '@/state/hearing/listening';
import {
  choose,
  draftStrip,
  levelStepDb,
  setStrip,
  toggleMutedOf,
  toggleSoloOf,
  type NamedStrip,
} from '@/state/mix/strips';
import { useProject } from '@/state/project/openProject';
import { ValueInPlace } from '../../components/ValueInPlace';
import { serif } from '../../theme/theme';
import { meterShare, voiceAim } from './meter';

/** What the slider reaches; further by typing. */
const slider = { lowestDb: -36, highestDb: 12 };

const percent = (share: number) => `${(100 * share).toFixed(1)}%`;

/** One voice or bed: level, place, whether it is heard, and its meter. */
export function StripRow({ strip, chosen }: { strip: NamedStrip; chosen: boolean }) {
  const { id, name, kind, levelDb, place } = strip;
  const readOnly = useProject((state) => state.readOnly);
  const muted = useListening((state) => state.muted.has(id));
  const solo = useListening((state) => state.solo.has(id));
  const placed = kind === 'voice' || kind === 'guide' || kind === 'bed';
  return (
    <Box
      role="group"
      aria-label={name}
      aria-current={chosen}
      data-strip={id}
      onPointerDown={() => choose(id)}
      sx={{
        display: 'grid',
        gridTemplateColumns: '100px minmax(64px, 1fr) 66px minmax(40px, 0.5fr) 36px 112px 104px',
        alignItems: 'center',
        columnGap: 1,
        minHeight: 38,
        px: 1,
        mx: -1,
        borderRadius: 1.5,
        bgcolor: chosen ? 'action.hover' : undefined,
      }}
    >
      <Box
        sx={{
          fontFamily: serif,
          fontStyle: kind === 'all' ? 'normal' : 'italic',
          fontWeight: kind === 'all' ? 700 : 500,
          overflow: 'hidden',
          textOverflow: 'ellipsis',
          whiteSpace: 'nowrap',
        }}
        title={kind === 'guide' ? say`${name}: a guide, heard and not written` : name}
      >
        {name}
        {kind === 'guide' && (
          <Box component="span" sx={{ fontSize: 12, color: 'text.secondary', ml: 0.75 }}>{say`guide`}</Box>
        )}
      </Box>
      <DraftSlider
        label={say`Level of ${name}`}
        value={levelDb}
        lowest={slider.lowestDb}
        highest={slider.highestDb}
        step={levelStepDb}
        disabled={readOnly}
        onDraft={(value) => draftStrip(id, { levelDb: value })}
        onChange={(value) => setStrip(id, { levelDb: value })}
      />
      <Box sx={{ textAlign: 'right', fontSize: 14 }}>
        <ValueInPlace
          label={say`Level of ${name}, dB`}
          value={levelDb}
          unit="dB"
          step={levelStepDb}
          lowest={stripLimits.lowestDb}
          highest={stripLimits.highestDb}
          disabled={readOnly}
          onChange={(value) => setStrip(id, { levelDb: value })}
        />
      </Box>
      <Meter aim={kind === 'voice' || kind === 'side'} />
      <Box
        data-meter="text"
        sx={{ fontSize: 12, fontVariantNumeric: 'tabular-nums', color: 'text.secondary', textAlign: 'right' }}
      />
      {placed ? (
        <Place id={id} name={name} place={place} disabled={readOnly} />
      ) : (
        <Box sx={{ fontSize: 12, color: 'text.secondary', textAlign: 'center' }}>
          {kind === 'side' ? say`side of a pair` : ''}
        </Box>
      )}
      {kind === 'all' ? (
        <span />
      ) : (
        <Box sx={{ display: 'flex', gap: 0.75 }}>
          <Listen label={say`mute`} of={name} on={muted} onToggle={() => toggleMutedOf(id)} />
          <Listen label={say`solo`} of={name} on={solo} onToggle={() => toggleSoloOf(id)} />
        </Box>
      )}
    </Box>
  );
}

interface DraftSliderProps {
  label: string;
  value: number;
  lowest: number;
  highest: number;
  step: number;
  disabled: boolean;
  onDraft: (value: number) => void;
  onChange: (value: number) => void;
}

/** A slider whose change is heard while it is dragged, and is one step when it is let go. */
function DraftSlider({ label, value, lowest, highest, step, disabled, onDraft, onChange }: DraftSliderProps) {
  const [dragged, setDragged] = useState<number | null>(null);
  return (
    <Slider
      size="small"
      aria-label={label}
      min={lowest}
      max={highest}
      step={step}
      disabled={disabled}
      track={false}
      value={dragged ?? value}
      marks={[{ value: 0 }]}
      onChange={(_, next) => {
        setDragged(next as number);
        onDraft(next as number);
      }}
      onChangeCommitted={(_, next) => {
        setDragged(null);
        onChange(next as number);
      }}
      sx={{
        color: 'text.primary',
        '& .MuiSlider-thumb': { width: 8, height: 20, borderRadius: 1 },
        '& .MuiSlider-rail': { opacity: 0.25 },
        '& .MuiSlider-mark': { height: 10, opacity: 0.6 },
      }}
    />
  );
}

export function placeText(place: number): string {
  const share = Math.round(Math.abs(place) * 100);
  if (share === 0) return say`middle`;
  return `${share === 100 ? '' : `${share} `}${place < 0 ? say`left` : say`right`}`;
}

function Place({
  id,
  name,
  place,
  disabled,
}: {
  id: string;
  name: string;
  place: number;
  disabled: boolean;
}) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <DraftSlider
        label={say`Place of ${name}`}
        value={place}
        lowest={-1}
        highest={1}
        step={0.05}
        disabled={disabled}
        onDraft={(value) => draftStrip(id, { place: value })}
        onChange={(value) => setStrip(id, { place: value })}
      />
      <Box sx={{ fontSize: 12, width: 46, flexShrink: 0, whiteSpace: 'nowrap' }}>{placeText(place)}</Box>
    </Box>
  );
}

function Meter({ aim }: { aim: boolean }) {
  return (
    <Box
      aria-hidden
      sx={{ position: 'relative', height: 8, bgcolor: 'divider', borderRadius: 0.5, overflow: 'hidden' }}
    >
      {aim && (
        <Box
          sx={{
            position: 'absolute',
            top: 0,
            bottom: 0,
            left: percent(meterShare(voiceAim.from)),
            width: percent(meterShare(voiceAim.to) - meterShare(voiceAim.from)),
            bgcolor: 'success.main',
            opacity: 0.35,
          }}
        />
      )}
      <Box
        data-meter="bar"
        sx={{
          position: 'absolute',
          inset: 0,
          bgcolor: 'text.primary',
          transformOrigin: 'left',
          transform: 'scaleX(0)',
        }}
      />
      <Box
        data-meter="hold"
        sx={{ position: 'absolute', top: 0, bottom: 0, width: 2, bgcolor: 'warning.main', opacity: 0 }}
      />
    </Box>
  );
}

function Listen({
  label,
  of,
  on,
  onToggle,
}: {
  label: string;
  of: string;
  on: boolean;
  onToggle: () => void;
}) {
  return (
    <ToggleButton
      value={label}
      selected={on}
      size="small"
      color="warning"
      aria-label={`${label} ${of}`}
      onChange={onToggle}
      sx={{
        ...{ textTransform: 'none', px: 1, height: 28, fontSize: 12.5, color: 'text.primary' },
        // Ochre on its own tint is too faint to read under the pointer.
        '&.Mui-selected, &.Mui-selected:hover': { color: 'text.primary', fontWeight: 700 },
      }}
    >
      {label}
    </ToggleButton>
  );
}
