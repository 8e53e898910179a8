import { say } from '../../texts/say';
import type { Band } from '../dsp/cookbook';
import type { SavedChain } from './chainFile';
import type { ChainStep, StepKind } from './chain';
import { usualStep } from './settings';

/** The RMS of speech that thresholds of the chains below are for, dBFS; see `fitted`. */
export const nominalSpeechDbfs = -23;

const step = <Kind extends StepKind>(
  kind: Kind,
  changes: Partial<Extract<ChainStep, { kind: Kind }>> = {},
): ChainStep => ({ ...usualStep(kind, kind), ...changes }) as ChainStep;

const band = (shape: Band['shape'], hertz: number, gainDb: number, q = 0.7): Band => ({
  shape,
  hertz,
  gainDb,
  q,
});

const chain = (name: string, note: string, ...steps: ChainStep[]): SavedChain => ({ name, note, steps });

/**
 * Chains to begin with, by situation. Values are *common practice*; thresholds are fitted to a voice when
 * taken.
 */
export const builtInChains: readonly SavedChain[] = [
  chain(
    say`Quiet booth, one voice`,
    say`A good room and a voice that needs little: rumble away, loud words 2 to 3 dB nearer, no peak over −3.5.`,
    step('rumble'),
    step('even', { thresholdDb: -22, ratio: 2, kneeDb: 8, attackMs: 10, releaseMs: 150, makeUpDb: 1 }),
    step('ceiling'),
  ),
  chain(
    say`A room that is heard`,
    say`A fan or traffic behind the voice: the room 8 dB softer once it has been learned, pauses a little quieter.`,
    step('rumble', { hertz: 90 }),
    step('room', { amountDb: 8 }),
    step('pauses', { thresholdDb: -52, rangeDb: 6 }),
    step('ceiling'),
  ),
  chain(
    say`Two people, one table`,
    say`Each hears the other: pauses quieter, phrases brought together, loud words nearer.`,
    step('rumble', { hertz: 90 }),
    step('pauses', { thresholdDb: -46, rangeDb: 8, holdMs: 200, closeMs: 250 }),
    step('phrases', { towardsDb: -23, mostDb: 4, seconds: 4 }),
    step('even', { thresholdDb: -23, ratio: 2.5, makeUpDb: 1 }),
    step('ceiling'),
  ),
  chain(
    say`A call or a telephone`,
    say`A thin line beside good microphones: boom and hiss off, a little body back, one level.`,
    step('equaliser', {
      bands: [
        band('highPass', 120, 0),
        band('bell', 300, 2, 0.8),
        band('bell', 3000, -2, 1),
        band('lowPass', 8000, 0),
      ],
    }),
    step('phrases', { towardsDb: -23, mostDb: 6, seconds: 3 }),
    step('even', { thresholdDb: -25, ratio: 3, makeUpDb: 2 }),
    step('ceiling'),
  ),
  chain(
    say`Close to the microphone`,
    say`Warm and near, with puffs and lip noise: plosives softened, less chest, milder s.`,
    step('rumble'),
    step('plosives'),
    step('equaliser', { bands: [band('lowShelf', 160, -3), band('bell', 350, -1.5, 1)] }),
    step('sibilance', { thresholdDb: -36, mostDb: 5 }),
    step('even', { thresholdDb: -22, ratio: 2, makeUpDb: 1 }),
    step('ceiling'),
  ),
  chain(
    say`A bright voice`,
    say`Sharp consonants: milder s, a little less around 3 kHz.`,
    step('rumble', { hertz: 90 }),
    step('equaliser', { bands: [band('bell', 3200, -2, 1.2)] }),
    step('sibilance', { hertz: 5000, thresholdDb: -38, mostDb: 7 }),
    step('ceiling'),
  ),
];

/**
 * A chain for a voice of another level than it was made for: thresholds and the level phrases go to move
 * with its speech; that of pauses stays between room and speech, at least 6 dB over the room. Levels are
 * RMS in dBFS.
 */
export function fitted(chainOf: SavedChain, speechDbfs: number, roomDbfs: number): SavedChain {
  if (!Number.isFinite(speechDbfs)) return chainOf;
  const by = speechDbfs - nominalSpeechDbfs;
  const within = (value: number, from: number, to: number) => Math.round(Math.min(to, Math.max(from, value)));
  const steps = chainOf.steps.map((one): ChainStep => {
    switch (one.kind) {
      case 'pauses': {
        const overRoom = Number.isFinite(roomDbfs) ? roomDbfs + 8 : -80;
        const threshold = Math.min(speechDbfs - 14, Math.max(one.thresholdDb + by, overRoom));
        return { ...one, thresholdDb: within(threshold, -80, -20) };
      }
      case 'phrases':
        return { ...one, towardsDb: within(one.towardsDb + by, -40, -10) };
      case 'even':
        return { ...one, thresholdDb: within(one.thresholdDb + by, -60, 0) };
      case 'sibilance':
        return { ...one, thresholdDb: within(one.thresholdDb + by, -70, 0) };
      default:
        return one;
    }
  });
  return { ...chainOf, steps };
}
