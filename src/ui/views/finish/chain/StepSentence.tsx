import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import type { ReactNode } from 'react';
import { settings, type Setting } from '@/core/chain/settings';
import type { ChainStep } from '@/core/chain/chain';
import { exhaustive } from '@/core/base/errors';
import { draftStep, setStep } from '@/state/chain/chains';
import { learnFor } from '@/state/chain/learning';
import { ChoiceInPlace } from '../../../components/ChoiceInPlace';
import { ValueInPlace } from '../../../components/ValueInPlace';

const decimalsOf = ({ by }: Setting) => (Number.isInteger(by) ? 0 : 1);
const unitOf = ({ unit }: Setting) => (unit === 'to 1' ? say`to 1` : unit);

interface Props {
  voice: string;
  step: ChainStep;
  disabled: boolean;
}

/** What a step does, in a sentence whose values are changed where they stand. */
export function StepSentence({ voice, step, disabled }: Props) {
  const limits: Readonly<Record<string, Setting>> = settings[step.kind];
  const fields = step as unknown as Readonly<Record<string, number>>;
  const number = (field: string, label: string) => {
    const setting = limits[field];
    const changed = (value: number) => ({ ...step, [field]: value }) as ChainStep;
    return (
      <ValueInPlace
        label={label}
        value={fields[field]}
        unit={unitOf(setting)}
        step={setting.by}
        decimals={decimalsOf(setting)}
        lowest={setting.from}
        highest={setting.to}
        disabled={disabled}
        onDraft={(value) => draftStep(voice, changed(value))}
        onChange={(value) => setStep(voice, changed(value))}
      />
    );
  };
  const choice = (field: string, label: string, names: Readonly<Record<string, string>>) => (
    <ChoiceInPlace
      label={label}
      value={String(fields[field])}
      choices={Object.entries(names).map(([key, name]) => ({ key, name }))}
      disabled={disabled}
      onChange={(key) => {
        const value = typeof fields[field] === 'number' ? Number(key) : key;
        setStep(voice, { ...step, [field]: value } as ChainStep);
      }}
    />
  );
  const learn = (label: string) => (
    <Button
      size="small"
      disabled={disabled}
      onClick={() => void learnFor(voice, step.id)}
      sx={{ display: 'block', ml: -0.6, mt: 0.25 }}
    >
      {label}
    </Button>
  );
  return <>{sentence(step, number, choice, learn)}</>;
}

type Value = (field: string, label: string) => ReactNode;
type Choice = (field: string, label: string, names: Readonly<Record<string, string>>) => ReactNode;

function sentence(
  step: ChainStep,
  value: Value,
  choice: Choice,
  learn: (label: string) => ReactNode,
): ReactNode {
  switch (step.kind) {
    case 'rumble':
      return (
        <>
          {say`Takes off what is under `}
          {value('hertz', say`Corner of the high-pass`)},{' '}
          {choice('slopeDb', say`Slope of the high-pass`, { 12: '12 dB', 24: '24 dB', 48: '48 dB' })}
          {say` an octave.`}
        </>
      );
    case 'hum':
      return (
        <>
          {say`Mains of `}
          {choice('mainsHz', say`Mains frequency`, { 50: '50 Hz', 60: '60 Hz' })}
          {say` and its multiples ${step.harmonics.map((multiple) => multiple * step.mainsHz).join(', ')} Hz, each `}
          {value('widthHz', say`Width of the notches`)}
          {say` wide.`}
          {learn(say`Find them in the room tone`)}
        </>
      );
    case 'plosives':
      return (
        <>
          {say`Where it puffs `}
          {value('overDb', say`How far a puff stands out`)}
          {say` over the usual, what is under `}
          {value('hertz', say`Where the low band ends`)}
          {say` goes down, at most `}
          {value('mostDb', say`Most taken off a puff`)}.
        </>
      );
    case 'room':
      return step.profile ? (
        <>
          {say`The room, learned from its tone, goes `}
          {value('amountDb', say`How much softer the room gets`)}
          {say` down.`}
          {learn(say`Learn it again`)}
        </>
      ) : (
        <>
          {say`Does nothing yet: it has to hear the room alone first. Then the room goes `}
          {value('amountDb', say`How much softer the room gets`)}
          {say` down.`}
          {learn(say`Learn from the room tone`)}
        </>
      );
    case 'pauses':
      return <PausesSentence step={step} value={value} choice={choice} learn={learn} />;
    case 'equaliser':
      return step.bands.length === 0
        ? say`No bands yet: double-click in the picture, or choose a shape under it.`
        : say`${step.bands.length === 1 ? say`One band` : say`${step.bands.length} bands`} over the voice’s long-term spectrum.`;
    case 'sibilance':
      return (
        <>
          {say`What hisses above `}
          {value('hertz', say`Where hissing begins`)}
          {say`, over `}
          {value('thresholdDb', say`Level of hissing that is too much`)}
          {say`, goes down, at most `}
          {value('mostDb', say`Most taken off hissing`)}.
        </>
      );
    case 'phrases':
      return (
        <>
          {say`Phrases go towards `}
          {value('towardsDb', say`Level of phrases`)}
          {say`, up or down by at most `}
          {value('mostDb', say`Most a phrase is turned`)}, {value('seconds', say`How much is heard at once`)}
          {say` at a time.`}
        </>
      );
    case 'even':
      return (
        <>
          {say`Above `}
          {value('thresholdDb', say`Threshold`)}
          {say` it goes `}
          {value('ratio', say`Ratio`)}
          {say`, knee `}
          {value('kneeDb', say`Knee`)}
          {say`; quick `}
          {value('attackMs', say`Attack`)}
          {say`, back in `}
          {value('releaseMs', say`Release`)}
          {say`; made up by `}
          {value('makeUpDb', say`Make-up`)}
          {say`. By `}
          {choice('detector', say`Detector`, { rms: 'RMS', peak: 'peaks' })}.
        </>
      );
    case 'ceiling':
      return (
        <>
          {value('gainDb', say`Gain`)}
          {say` of gain, then no `}
          {choice('peaks', say`Kind of peak`, { true: say`true peak`, sample: say`sample peak` })}
          {say` over `}
          {value('ceilingDb', say`Ceiling`)}.
        </>
      );
    default:
      return exhaustive(step);
  }
}

function PausesSentence({
  step,
  value,
  choice,
  learn,
}: {
  step: Extract<ChainStep, { kind: 'pauses' }>;
  value: Value;
  choice: Choice;
  learn: (label: string) => ReactNode;
}) {
  const bySpeech = step.by === 'speech' && step.roomDb !== null;
  return (
    <>
      {say`Goes by `}
      {choice('by', say`What closes the pauses`, { level: say`the level`, speech: say`the speech` })}:{' '}
      {bySpeech ? (
        <>{say`where nothing stands out of the room it goes `}</>
      ) : (
        <>
          {say`opens at `}
          {value('thresholdDb', say`Threshold of the pauses`)}
          {say`, closes `}
          {value('hysteresisDb', say`Closes under that`)}
          {say` under it, then `}
          {value('ratio', say`Ratio of the pauses`)},{' '}
        </>
      )}
      {value('rangeDb', say`Most taken off pauses`)}
      {say` down ${bySpeech ? '' : say`at most `}and never to silence. Open `}
      {value('aheadMs', say`Opens ahead`)}
      {say` ahead, waits `}
      {value('holdMs', say`How long it waits`)}
      {say`, closes in `}
      {value('closeMs', say`How long closing takes`)}.
      {step.by === 'speech' &&
        learn(step.roomDb ? say`Hear the room again` : say`It has to hear the room first`)}
    </>
  );
}
