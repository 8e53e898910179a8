import { exhaustive } from '../base/errors';
import { formatDb } from '../base/units';
import type { ChainStep, StepKind } from './chain';

/** What steps are called. */
export const stepNames: Readonly<Record<StepKind, string>> = {
  rumble: 'Away with the rumble',
  hum: 'Hum taken out',
  plosives: 'Softer p and b',
  room: 'Softer room',
  pauses: 'Quieter pauses',
  equaliser: 'Equaliser',
  sibilance: 'Milder s',
  phrases: 'Phrases brought together',
  even: 'Evener reading',
  ceiling: 'Gain and ceiling',
};

/** What each is called in the trade, for those who look for it. */
export const tradeNames: Readonly<Record<StepKind, string>> = {
  rumble: 'high-pass',
  hum: 'notches',
  plosives: 'plosives',
  room: 'noise reduction',
  pauses: 'downward expander',
  equaliser: 'equaliser',
  sibilance: 'de-esser',
  phrases: 'slow leveller',
  even: 'compressor',
  ceiling: 'gain and limiter',
};

const db = (level: number) => formatDb(level);
const dbfs = (level: number) => formatDb(level, 'dBFS');

/** What a step does, in one sentence, for reports and messages. */
export function describeStep(step: ChainStep): string {
  switch (step.kind) {
    case 'rumble':
      return `Takes off what is under ${step.hertz} Hz, ${step.slopeDb} dB an octave.`;
    case 'hum':
      return `Takes out ${step.harmonics.map((multiple) => multiple * step.mainsHz).join(', ')} Hz, each ${step.widthHz} Hz wide.`;
    case 'plosives':
      return `Where it puffs, what is under ${step.hertz} Hz goes down, by ${db(step.mostDb)} at most.`;
    case 'room':
      return step.profile
        ? `The room that was learned goes ${db(step.amountDb)} down.`
        : 'Does nothing yet: it has to hear the room alone first.';
    case 'pauses':
      return step.by === 'speech' && step.roomDb
        ? `Where nobody speaks it goes ${db(step.rangeDb)} down.`
        : `Under ${dbfs(step.thresholdDb)} it goes down ${step.ratio} to 1, by ${db(step.rangeDb)} at most.`;
    case 'equaliser':
      return step.bands.length === 0 ? 'No bands yet.' : `${step.bands.map(describeBand).join('; ')}.`;
    case 'sibilance':
      return `What hisses above ${step.hertz} Hz, over ${dbfs(step.thresholdDb)}, goes down by ${db(step.mostDb)} at most.`;
    case 'phrases':
      return `Phrases go towards ${dbfs(step.towardsDb)}, by ${db(step.mostDb)} at most.`;
    case 'even':
      return `Above ${dbfs(step.thresholdDb)} ${step.ratio} to 1; attack ${step.attackMs} ms, release ${step.releaseMs} ms; made up by ${db(step.makeUpDb)}.`;
    case 'ceiling':
      return `${db(step.gainDb)}; no ${step.peaks === 'true' ? 'true ' : ''}peak over ${formatDb(step.ceilingDb, step.peaks === 'true' ? 'dBTP' : 'dBFS')}.`;
    default:
      return exhaustive(step);
  }
}

function describeBand({
  shape,
  hertz,
  gainDb,
}: Extract<ChainStep, { kind: 'equaliser' }>['bands'][number]): string {
  const gain = `${gainDb > 0 ? '+' : ''}${db(gainDb)}`;
  switch (shape) {
    case 'bell':
      return `${gain} at ${hertz} Hz`;
    case 'lowShelf':
      return `${gain} under ${hertz} Hz`;
    case 'highShelf':
      return `${gain} above ${hertz} Hz`;
    case 'lowPass':
      return `nothing above ${hertz} Hz`;
    case 'highPass':
      return `nothing under ${hertz} Hz`;
    case 'notch':
      return `${hertz} Hz taken out`;
  }
}
