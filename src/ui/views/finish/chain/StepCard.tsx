import { say } from '@/texts/say';
import DragIndicator from '@mui/icons-material/DragIndicator';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Switch from '@mui/material/Switch';
import { useSortable } from '@dnd-kit/sortable';
import { memo, useEffect, useRef } from 'react';
import { formatDb, formatTime } from '@/core/base/units';
import type { StepWork } from '@/core/chain/chainWork';
import type { ChainStep } from '@/core/chain/chain';
import { stepNames, tradeNames } from '@/core/chain/stepText';
import { clockOf } from '@/core/timeline/timeline';
import { hearStepAlone, placeStep, removeStep, toggleStep, useChains } from '@/state/chain/chains';
import { useChainHearing } from '@/state/hearing/chainHearing';
import { setCaret, usePart } from '@/state/sheet/part';
import { serif } from '../../../theme/theme';
import { CurvePicture } from './CurvePicture';
import { EqualiserPicture } from './EqualiserPicture';
import { StepSentence } from './StepSentence';

interface Props {
  voice: string;
  step: ChainStep;
  number: number;
  last: boolean;
  work: StepWork | null;
  rateHz: number;
  disabled: boolean;
}

/** One step of a chain: its sentence and switch; where it is chosen, its picture and what it does here. */
export const StepCard = memo(function StepCard({ voice, step, number, last, work, rateHz, disabled }: Props) {
  const chosen = useChains((state) => state.step === step.id);
  const alone = useChainHearing((state) => state.alone === step.id);
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: step.id, disabled });
  const name = stepNames[step.kind];
  const card = useRef<HTMLElement | null>(null);
  // One that keys have chosen comes into sight with its picture.
  useEffect(() => {
    if (chosen) card.current?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  return (
    <Box
      ref={(element: HTMLElement | null) => {
        card.current = element;
        setNodeRef(element);
      }}
      component="li"
      aria-label={name}
      aria-current={chosen}
      data-step={step.kind}
      onPointerDown={() => useChains.setState({ step: step.id })}
      onFocus={() => useChains.setState({ step: step.id })}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      sx={{
        listStyle: 'none',
        borderRadius: 2,
        px: 1,
        py: 0.75,
        mb: 0.25,
        bgcolor: chosen ? 'page.wash' : undefined,
        opacity: step.on ? 1 : 0.72,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <IconButton
          size="small"
          disabled={disabled}
          {...attributes}
          {...listeners}
          aria-label={say`Move ${name}`}
          sx={{ p: 0.25, ml: -0.75, color: 'text.secondary' }}
        >
          <DragIndicator sx={{ fontSize: 17 }} />
        </IconButton>
        <Box sx={{ fontFamily: serif, color: 'text.secondary', fontWeight: 700, width: 16 }}>{number}</Box>
        <Box
          component="h3"
          title={tradeNames[step.kind]}
          sx={{ flex: 1, m: 0, fontFamily: serif, fontSize: 15.5, fontWeight: 700 }}
        >
          {name}
        </Box>
        <Switch
          size="small"
          color="success"
          checked={step.on}
          disabled={disabled}
          onChange={() => toggleStep(voice, step.id)}
          slotProps={{ input: { 'aria-label': say`${name} is on` } }}
        />
      </Box>
      <Box sx={{ pl: 2.75, fontSize: 13.5, lineHeight: 1.6 }}>
        <StepSentence voice={voice} step={step} disabled={disabled} />
        {chosen && step.kind === 'equaliser' && (
          <EqualiserPicture voice={voice} step={step} rateHz={rateHz} disabled={disabled} />
        )}
        {chosen && <CurvePicture step={step} rateHz={rateHz} />}
        {step.on && work && <Work work={work} rateHz={rateHz} />}
        {chosen && (
          <Box sx={{ display: 'flex', flexWrap: 'wrap', ml: -0.75 }}>
            <Small
              label={alone ? say`Hear all of them` : say`Hear it alone`}
              disabled={!step.on}
              onClick={() => hearStepAlone(step.id)}
            />
            <Small
              label={say`Earlier`}
              disabled={disabled || number === 1}
              onClick={() => placeStep(voice, step.id, number - 2)}
            />
            <Small
              label={say`Later`}
              disabled={disabled || last}
              onClick={() => placeStep(voice, step.id, number)}
            />
            <Small label={say`Take it away`} disabled={disabled} onClick={() => removeStep(voice, step.id)} />
          </Box>
        )}
      </Box>
    </Box>
  );
});

function Small({ label, disabled, onClick }: { label: string; disabled: boolean; onClick: () => void }) {
  return (
    <Button
      size="small"
      color="inherit"
      disabled={disabled}
      onClick={onClick}
      sx={{ minWidth: 0, py: 0.1, px: 0.75, fontSize: 12.5 }}
    >
      {label}
    </Button>
  );
}

const percent = (share: number) => `${Math.round(100 * share)} %`;

/** What a step does to this voice: the most, where, the usual; and when that is too much. */
function Work({ work, rateHz }: { work: StepWork; rateHz: number }) {
  const { mostDb, at, usualDb, share, tooHard } = work;
  if (mostDb === 0)
    return <Box sx={{ color: 'text.secondary', fontSize: 12.5 }}>{say`Nothing to do in this part.`}</Box>;
  const go = () => {
    const { timeline } = usePart.getState();
    setCaret(clockOf(timeline).heardToSheet(at));
  };
  return (
    <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>
      {say`Most ${mostDb < 0 ? say`taken off` : say`put on`} ${formatDb(Math.abs(mostDb))} at `}
      <Button size="small" onClick={go} sx={{ minWidth: 0, p: 0, fontSize: 12.5, verticalAlign: 'baseline' }}>
        {formatTime(at / rateHz, true)}
      </Button>
      {usualDb > 0 && <>{say`; usually ${formatDb(usualDb)}, on ${percent(share)} of the reading`}</>}.
      {tooHard && (
        <Box
          sx={{ color: 'warning.main' }}
          role="status"
        >{say`It works hard on much of the reading: a little less would be heard less.`}</Box>
      )}
    </Box>
  );
}
