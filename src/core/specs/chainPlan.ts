import { say } from '../../texts/say';
import { formatDb } from '../base/units';
import { addStep, usualStep } from '../chain/settings';
import type { Chain, ChainStep, EvenStep, PausesStep, RoomStep, StepKind } from '../chain/chain';
import { withStep } from '../chain/chain';
import type { VoiceLevels } from '../chain/chainWork';
import type { RoomProfile } from '../chain/roomProfile';
import type { Measurement } from '../loudness/measure';
import type { Output } from '../timeline/output';
import { levelsPass, shortfalls, type FixOptions, type Shortfalls } from './levelPlan';
import { rehearseLevels, type Rehearsal } from './rehearsal';
import type { Spec } from './spec';

/** How far a plan goes; beyond it is heard, and read again instead. *Common practice*. */
export interface ChainLimits {
  /** Off the room by noise reduction, and off the pauses by an expander, dB. */
  readonly mostRoomDb: number;
  readonly mostPausesDb: number;
  /** Off loud words by a compressor, dB. */
  readonly mostEvenDb: number;
}
export const defaultChainLimits: ChainLimits = { mostRoomDb: 10, mostPausesDb: 8, mostEvenDb: 6 };

/** A voice whose chain may be changed. */
export interface PlannedVoice {
  readonly id: string;
  readonly chain: Chain;
  readonly levels: VoiceLevels;
  /** Its room alone; null where there is no room tone to learn it from. */
  readonly profile: RoomProfile | null;
}

/** The chains of voices by their ids. */
export type Chains = Readonly<Record<string, Chain>>;

export type MeasureWith = (
  /** Null for those there are. */
  chains: Chains | null,
  output: Output | undefined,
  /** Counts the tries. */
  turn: number,
) => Promise<{ measurement: Measurement; reductionDb: number }>;

export interface ChainRehearsal extends Rehearsal {
  /** The chains that were planned with; null where gain and ceiling are enough, or nothing is. */
  readonly chains: Chains | null;
  /** What the chains do and cost: “pauses 9 dB softer; 3 dB evener”. */
  readonly cost: string;
}

/** What is added to what voices have, dB; 0 for nothing. */
interface Amounts {
  rumble: boolean;
  roomDb: number;
  pausesDb: number;
  evenDb: number;
}

/**
 * A step goes this much further than what is missing, dB: the next measurement finds something else
 * missing.
 */
const marginDb = 0.6;
const mostTurns = 8;
const leastMoreDb = 0.5;
/** A high-pass that takes so much off the room is worth it: rumble is most of it. */
const rumbleWorthDb = 3;

/**
 * Plans a part with chains where gain and ceiling are not enough: the least that does it, each try
 * rendered and measured. `lookAtVoices` is asked only where it is needed. Where more
 * would be needed than the limits, the plan is refused and says what to do at the microphone.
 */
export async function rehearseChains(
  spec: Spec,
  options: FixOptions,
  limits: ChainLimits,
  lookAtVoices: () => Promise<readonly PlannedVoice[]>,
  measure: MeasureWith,
): Promise<ChainRehearsal> {
  const plain = await rehearseLevels(spec, options, (output, turn) => measure(null, output, turn));
  const asItIs: ChainRehearsal = { ...plain, chains: null, cost: '' };
  if (plain.plan.possible || spec.unprocessed) return asItIs;
  const voices = await lookAtVoices();
  if (voices.length === 0) return asItIs;
  const now: Chains = Object.fromEntries(voices.map(({ id, chain }) => [id, chain]));
  let measured = (await measure(now, undefined, 0)).measurement;
  let missing = shortfalls(spec, measured, options);
  if (missing.other) return asItIs;
  const refused = (why: string): ChainRehearsal => ({
    ...plain,
    plan: { possible: false, why },
    chains: null,
    cost: '',
  });
  const amounts: Amounts = { rumble: false, roomDb: 0, pausesDb: 0, evenDb: 0 };
  let chains = now;
  if (missing.roomDb > 0 && !voices.every(({ chain }) => has(chain, 'rumble'))) {
    const tried = withAmounts(voices, { ...amounts, rumble: true }, measured);
    const { measurement } = await measure(tried, undefined, 1);
    if (measured.noiseFloorDbfs - measurement.noiseFloorDbfs >= rumbleWorthDb) {
      amounts.rumble = true;
      chains = tried;
      measured = measurement;
      missing = shortfalls(spec, measured, options);
    }
  }
  // Thresholds are set by the peaks there were before any of it.
  const raw = measured;
  for (let turn = 2; turn <= mostTurns; turn++) {
    if (!isMissing(missing)) {
      const planned = await rehearseLevels(spec, options, (output) => measure(chains, output, turn));
      if (planned.predicted && levelsPass(spec, planned.predicted))
        return { ...planned, chains, cost: costOf(amounts) };
      // The limiter is at its end and the level is not there yet.
      missing = { ...missing, peakDb: leastMoreDb };
    }
    const refusal = grow(amounts, missing, limits, voices);
    if (refusal) return refused(refusal);
    chains = withAmounts(voices, amounts, raw);
    measured = (await measure(chains, undefined, turn)).measurement;
    missing = shortfalls(spec, measured, options);
  }
  return refused(
    say`No chain within the limits brings level, peaks and room together. Come closer to the microphone and read the loudest places a little softer.`,
  );
}

const isMissing = ({ roomDb, peakDb }: Shortfalls) => roomDb > 0 || peakDb > 0;

const has = ({ steps }: Chain, kind: StepKind) => steps.some((step) => step.kind === kind && step.on);

/** Adds what is missing; returns why it cannot, with what to do. */
function grow(
  amounts: Amounts,
  { roomDb, peakDb }: Shortfalls,
  limits: ChainLimits,
  voices: readonly PlannedVoice[],
): string | null {
  if (roomDb > 0) {
    const learned = voices.every(({ profile }) => profile);
    const more = Math.ceil(2 * (roomDb + marginDb)) / 2;
    // The room goes first, since what is under the words goes with it; the rest is left to the pauses.
    const room = learned ? Math.min(more, limits.mostRoomDb - amounts.roomDb) : 0;
    amounts.roomDb += room;
    amounts.pausesDb += more - room;
    if (amounts.pausesDb > limits.mostPausesDb)
      return say`The room is too loud against the voice: pauses would have to be ${formatDb(amounts.roomDb + amounts.pausesDb)} softer, and more than ${formatDb((learned ? limits.mostRoomDb : 0) + limits.mostPausesDb)} is heard. Come closer to the microphone, or find what hums or blows, and read it again.`;
  }
  if (peakDb > 0) {
    amounts.evenDb += Math.ceil(2 * (peakDb + marginDb)) / 2;
    if (amounts.evenDb > limits.mostEvenDb)
      return say`The reading would have to be ${formatDb(amounts.evenDb)} evener, and more than ${formatDb(limits.mostEvenDb)} is heard. Read the loudest places again, a little further from the microphone, or lower them by hand in the Booth.`;
  }
  return null;
}

const withAmounts = (voices: readonly PlannedVoice[], amounts: Amounts, measured: Measurement): Chains =>
  Object.fromEntries(voices.map((voice) => [voice.id, chainWith(voice, amounts, measured)]));

/** A voice's chain with what is added: further steps, or more of those it has. */
function chainWith({ chain, levels, profile }: PlannedVoice, amounts: Amounts, measured: Measurement): Chain {
  let next = chain;
  const put = <Step extends ChainStep>(kind: Step['kind'], more: (step: Step, isNew: boolean) => Step) => {
    const known = next.steps.find((step) => step.kind === kind && step.on) as Step | undefined;
    next = known
      ? withStep(next, more(known, false))
      : addStep(next, more(usualStep(kind, `planned-${kind}`) as unknown as Step, true));
  };
  if (amounts.rumble && !has(chain, 'rumble')) put('rumble', (step) => step);
  if (amounts.roomDb > 0 && profile)
    put<RoomStep>('room', (step, isNew) => ({
      ...step,
      profile: step.profile ?? profile,
      amountDb: Math.min(20, (isNew ? 0 : step.amountDb) + amounts.roomDb),
    }));
  if (amounts.pausesDb > 0)
    put<PausesStep>('pauses', (step, isNew) =>
      isNew
        ? { ...step, rangeDb: Math.max(1, amounts.pausesDb), ratio: 4, thresholdDb: pauseThreshold(levels) }
        : { ...step, rangeDb: Math.min(30, step.rangeDb + amounts.pausesDb) },
    );
  if (amounts.evenDb > 0)
    put<EvenStep>('even', (step, isNew) => {
      if (!isNew) return { ...step, thresholdDb: Math.max(-60, step.thresholdDb - amounts.evenDb) };
      const even = { ...step, ratio: 3, kneeDb: 6, attackMs: 3, releaseMs: 120, detector: 'peak' as const };
      return { ...even, thresholdDb: evenThreshold(even, amounts.evenDb, measured) };
    });
  return next;
}

/** Well over the room, well under the words. */
const pauseThreshold = ({ speechDbfs, roomDbfs }: VoiceLevels) =>
  Math.round(
    Math.min(-20, Math.max(-80, Math.min(speechDbfs - 12, Math.max(roomDbfs + 10, speechDbfs - 28)))),
  );

/** Where a curve takes so much off the highest peaks. */
function evenThreshold({ ratio }: EvenStep, takenDb: number, { samplePeakDbfs }: Measurement): number {
  const threshold = samplePeakDbfs - takenDb / (1 - 1 / ratio);
  return Math.round(2 * Math.min(0, Math.max(-60, threshold))) / 2;
}

function costOf({ rumble, roomDb, pausesDb, evenDb }: Amounts): string {
  const whole = (db: number) => `${Number(db.toFixed(1))} dB`;
  return [
    rumble && say`rumble under 80 Hz off`,
    roomDb > 0 && say`room ${whole(roomDb)} softer`,
    pausesDb > 0 && say`pauses ${whole(pausesDb)} softer`,
    evenDb > 0 && say`${whole(evenDb)} evener`,
  ]
    .filter((part) => typeof part === 'string')
    .join('; ');
}
