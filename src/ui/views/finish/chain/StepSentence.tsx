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
const unitOf = ({ unit }: Setting) => (unit === 'to 1' ? 'to 1' : unit);

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
          Takes off what is under {value('hertz', 'Corner of the high-pass')},{' '}
          {choice('slopeDb', 'Slope of the high-pass', { 12: '12 dB', 24: '24 dB', 48: '48 dB' })} an octave.
        </>
      );
    case 'hum':
      return (
        <>
          Mains of {choice('mainsHz', 'Mains frequency', { 50: '50 Hz', 60: '60 Hz' })} and its multiples{' '}
          {step.harmonics.map((multiple) => multiple * step.mainsHz).join(', ')} Hz, each{' '}
          {value('widthHz', 'Width of the notches')} wide.
          {learn('Find them in the room tone')}
        </>
      );
    case 'plosives':
      return (
        <>
          Where it puffs {value('overDb', 'How far a puff stands out')} over the usual, what is under{' '}
          {value('hertz', 'Where the low band ends')} goes down, at most{' '}
          {value('mostDb', 'Most taken off a puff')}.
        </>
      );
    case 'room':
      return step.profile ? (
        <>
          The room, learned from its tone, goes {value('amountDb', 'How much softer the room gets')} down.
          {learn('Learn it again')}
        </>
      ) : (
        <>
          Does nothing yet: it has to hear the room alone first. Then the room goes{' '}
          {value('amountDb', 'How much softer the room gets')} down.
          {learn('Learn from the room tone')}
        </>
      );
    case 'pauses':
      return <PausesSentence step={step} value={value} choice={choice} learn={learn} />;
    case 'equaliser':
      return step.bands.length === 0
        ? 'No bands yet: double-click in the picture, or choose a shape under it.'
        : `${step.bands.length === 1 ? 'One band' : `${step.bands.length} bands`} over the voice’s long-term spectrum.`;
    case 'sibilance':
      return (
        <>
          What hisses above {value('hertz', 'Where hissing begins')}, over{' '}
          {value('thresholdDb', 'Level of hissing that is too much')}, goes down, at most{' '}
          {value('mostDb', 'Most taken off hissing')}.
        </>
      );
    case 'phrases':
      return (
        <>
          Phrases go towards {value('towardsDb', 'Level of phrases')}, up or down by at most{' '}
          {value('mostDb', 'Most a phrase is turned')}, {value('seconds', 'How much is heard at once')} at a
          time.
        </>
      );
    case 'even':
      return (
        <>
          Above {value('thresholdDb', 'Threshold')} it goes {value('ratio', 'Ratio')}, knee{' '}
          {value('kneeDb', 'Knee')}; quick {value('attackMs', 'Attack')}, back in{' '}
          {value('releaseMs', 'Release')}; made up by {value('makeUpDb', 'Make-up')}. By{' '}
          {choice('detector', 'Detector', { rms: 'RMS', peak: 'peaks' })}.
        </>
      );
    case 'ceiling':
      return (
        <>
          {value('gainDb', 'Gain')} of gain, then no{' '}
          {choice('peaks', 'Kind of peak', { true: 'true peak', sample: 'sample peak' })} over{' '}
          {value('ceilingDb', 'Ceiling')}.
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
      Goes by {choice('by', 'What closes the pauses', { level: 'the level', speech: 'the speech' })}:{' '}
      {bySpeech ? (
        <>where nothing stands out of the room it goes </>
      ) : (
        <>
          opens at {value('thresholdDb', 'Threshold of the pauses')}, closes{' '}
          {value('hysteresisDb', 'Closes under that')} under it, then {value('ratio', 'Ratio of the pauses')}
          ,{' '}
        </>
      )}
      {value('rangeDb', 'Most taken off pauses')} down {bySpeech ? '' : 'at most '}and never to silence. Open{' '}
      {value('aheadMs', 'Opens ahead')} ahead, waits {value('holdMs', 'How long it waits')}, closes in{' '}
      {value('closeMs', 'How long closing takes')}.
      {step.by === 'speech' && learn(step.roomDb ? 'Hear the room again' : 'It has to hear the room first')}
    </>
  );
}
