import type { Band } from '../dsp/cookbook';
import type { RoomProfile } from './roomProfile';

/** What a voice goes through, in order. Recordings are never changed by it. */
export interface Chain {
  /** As it was saved or chosen; '' for one made by hand. */
  readonly name: string;
  readonly steps: readonly ChainStep[];
}

interface Every {
  /** Tells steps of a chain apart; there can be several of a kind. */
  readonly id: string;
  /** One that is off passes everything on as it is. */
  readonly on: boolean;
}

/** A Butterworth high-pass. */
export interface RumbleStep extends Every {
  readonly kind: 'rumble';
  readonly hertz: number;
  /** dB an octave. */
  readonly slopeDb: 12 | 24 | 48;
}

/** Notches at the mains frequency and above. */
export interface HumStep extends Every {
  readonly kind: 'hum';
  readonly mainsHz: 50 | 60;
  /** Which multiples of it, rising. */
  readonly harmonics: readonly number[];
  /** Of each notch, between its −3 dB points, in hertz. */
  readonly widthHz: number;
}

/** Noise reduction learned from room tone; passes everything on while nothing has been learned. */
export interface RoomStep extends Every {
  readonly kind: 'room';
  /** What the room goes down by, dB. */
  readonly amountDb: number;
  readonly profile: RoomProfile | null;
}

/** A downward expander. */
export interface PausesStep extends Every {
  readonly kind: 'pauses';
  /** Closes by the level, or when no band of speech stands out from the room that was learned. */
  readonly by: 'level' | 'speech';
  /** Level (RMS of 10 ms) at which it opens, dBFS. */
  readonly thresholdDb: number;
  /** It closes this much under the threshold, dB. */
  readonly hysteresisDb: number;
  /** Closed, dB of the output for one of the input under the threshold. */
  readonly ratio: number;
  /** Nothing goes down by more, dB. */
  readonly rangeDb: number;
  /** Open so long before what opens it. */
  readonly aheadMs: number;
  /** Stays open so long after, then closes within `closeMs`. */
  readonly holdMs: number;
  readonly closeMs: number;
  /** What the bands of speech measure of the room by itself, dBFS; see speechBands. */
  readonly roomDb: readonly number[] | null;
}

export interface EqualiserStep extends Every {
  readonly kind: 'equaliser';
  readonly bands: readonly Band[];
}

/** A split-band de-esser. */
export interface SibilanceStep extends Every {
  readonly kind: 'sibilance';
  /** The band that is turned down begins here. */
  readonly hertz: number;
  /** Level of the band (RMS) over which it goes down, dBFS. */
  readonly thresholdDb: number;
  readonly mostDb: number;
}

/** A slow leveller: brings phrases to one level. */
export interface PhrasesStep extends Every {
  readonly kind: 'phrases';
  /** RMS of speech it brings phrases towards, dBFS. */
  readonly towardsDb: number;
  /** It turns no further up or down than this, dB. */
  readonly mostDb: number;
  /** How much is heard at once, seconds. */
  readonly seconds: number;
}

/** A compressor. */
export interface EvenStep extends Every {
  readonly kind: 'even';
  readonly thresholdDb: number;
  readonly ratio: number;
  readonly kneeDb: number;
  /** To within 2 dB of the end of a step of 10 dB (IEC 60268-8). */
  readonly attackMs: number;
  readonly releaseMs: number;
  readonly makeUpDb: number;
  readonly detector: 'peak' | 'rms';
}

/** Turns the low band down where a plosive puffs into the microphone. */
export interface PlosivesStep extends Every {
  readonly kind: 'plosives';
  /** The band that is turned down ends here. */
  readonly hertz: number;
  /** So much over the low band's usual level is a puff, dB. */
  readonly overDb: number;
  readonly mostDb: number;
}

/** Gain, then a limiter. */
export interface CeilingStep extends Every {
  readonly kind: 'ceiling';
  readonly gainDb: number;
  readonly ceilingDb: number;
  readonly peaks: 'sample' | 'true';
}

export type ChainStep =
  | RumbleStep
  | HumStep
  | RoomStep
  | PausesStep
  | EqualiserStep
  | SibilanceStep
  | PhrasesStep
  | EvenStep
  | PlosivesStep
  | CeilingStep;

export type StepKind = ChainStep['kind'];

export const mostSteps = 16;
export const mostBands = 8;

const same = <T>(a: T, b: T) => a === b || JSON.stringify(a) === JSON.stringify(b);

/** Steps that change something: those that are on. */
export const stepsOn = (chain: Chain | undefined): readonly ChainStep[] =>
  chain?.steps.filter(({ on }) => on) ?? [];

/** Equal chains sound the same and are shown the same. */
export const sameChain = (a: Chain | undefined, b: Chain | undefined): boolean => same(a, b);

export const sameStep = (a: ChainStep, b: ChainStep): boolean => same(a, b);

/** A chain whose steps do not run. */
export const isIdle = (chain: Chain | undefined) => stepsOn(chain).length === 0;

/** The gain a step has where it does nothing: its make-up, or its plain gain, dB. */
export const restGainDb = (step: ChainStep): number =>
  step.kind === 'even' ? step.makeUpDb : step.kind === 'ceiling' ? step.gainDb : 0;

/** The chain with a step changed; one of another id stays as it is. */
export const withStep = (chain: Chain, step: ChainStep): Chain => ({
  ...chain,
  steps: chain.steps.map((one) => (one.id === step.id ? step : one)),
});

export const withoutStep = (chain: Chain, id: string): Chain => ({
  ...chain,
  steps: chain.steps.filter((step) => step.id !== id),
});

/** The chain with a step at another place, 0 for the first; the rest keeps its order. */
export function moveStep(chain: Chain, id: string, to: number): Chain {
  const step = chain.steps.find((one) => one.id === id);
  if (!step) return chain;
  const others = chain.steps.filter((one) => one !== step);
  return { ...chain, steps: [...others.slice(0, Math.max(0, to)), step, ...others.slice(Math.max(0, to))] };
}
