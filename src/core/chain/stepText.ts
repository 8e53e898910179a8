import { say } from '../../texts/say';
import { exhaustive } from '../base/errors';
import { formatDb } from '../base/units';
import type { ChainStep, StepKind } from './chain';

/** What steps are called. */
export const stepNames: Readonly<Record<StepKind, string>> = {
  rumble: say`Away with the rumble`,
  hum: say`Hum taken out`,
  plosives: say`Softer p and b`,
  room: say`Softer room`,
  pauses: say`Quieter pauses`,
  equaliser: say`Equaliser`,
  sibilance: say`Milder s`,
  phrases: say`Phrases brought together`,
  even: say`Evener reading`,
  ceiling: say`Gain and ceiling`,
};

/** What each is called in the trade, for those who look for it. */
export const tradeNames: Readonly<Record<StepKind, string>> = {
  rumble: say`high-pass`,
  hum: say`notches`,
  plosives: say`plosives`,
  room: say`noise reduction`,
  pauses: say`downward expander`,
  equaliser: say`equaliser`,
  sibilance: say`de-esser`,
  phrases: say`slow leveller`,
  even: say`compressor`,
  ceiling: say`gain and limiter`,
};

const db = (level: number) => formatDb(level);
const dbfs = (level: number) => formatDb(level, 'dBFS');

/** What a step does, in one sentence, for reports and messages. */
export function describeStep(step: ChainStep): string {
  switch (step.kind) {
    case 'rumble':
      return say`Takes off what is under ${step.hertz} Hz, ${step.slopeDb} dB an octave.`;
    case 'hum':
      return say`Takes out ${step.harmonics.map((multiple) => multiple * step.mainsHz).join(', ')} Hz, each ${step.widthHz} Hz wide.`;
    case 'plosives':
      return say`Where it puffs, what is under ${step.hertz} Hz goes down, by ${db(step.mostDb)} at most.`;
    case 'room':
      return step.profile
        ? say`The room that was learned goes ${db(step.amountDb)} down.`
        : say`Does nothing yet: it has to hear the room alone first.`;
    case 'pauses':
      return step.by === 'speech' && step.roomDb
        ? say`Where nobody speaks it goes ${db(step.rangeDb)} down.`
        : say`Under ${dbfs(step.thresholdDb)} it goes down ${step.ratio} to 1, by ${db(step.rangeDb)} at most.`;
    case 'equaliser':
      return step.bands.length === 0 ? say`No bands yet.` : `${step.bands.map(describeBand).join('; ')}.`;
    case 'sibilance':
      return say`What hisses above ${step.hertz} Hz, over ${dbfs(step.thresholdDb)}, goes down by ${db(step.mostDb)} at most.`;
    case 'phrases':
      return say`Phrases go towards ${dbfs(step.towardsDb)}, by ${db(step.mostDb)} at most.`;
    case 'even':
      return say`Above ${dbfs(step.thresholdDb)} ${step.ratio} to 1; attack ${step.attackMs} ms, release ${step.releaseMs} ms; made up by ${db(step.makeUpDb)}.`;
    case 'ceiling':
      return say`${db(step.gainDb)}; no ${step.peaks === 'true' ? say`true ` : ''}peak over ${formatDb(step.ceilingDb, step.peaks === 'true' ? 'dBTP' : 'dBFS')}.`;
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
      return say`${gain} at ${hertz} Hz`;
    case 'lowShelf':
      return say`${gain} under ${hertz} Hz`;
    case 'highShelf':
      return say`${gain} above ${hertz} Hz`;
    case 'lowPass':
      return say`nothing above ${hertz} Hz`;
    case 'highPass':
      return say`nothing under ${hertz} Hz`;
    case 'notch':
      return say`${hertz} Hz taken out`;
  }
}
