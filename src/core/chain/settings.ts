import { mostSteps, type Chain, type ChainStep, type StepKind } from './chain';

/** A number of a step that can be changed. */
export interface Setting {
  readonly from: number;
  readonly to: number;
  /** Of an arrow key. */
  readonly by: number;
  readonly unit: 'Hz' | 'dB' | 'dBFS' | 'ms' | 's' | 'to 1';
  /** What a new step has: *common practice*. */
  readonly usual: number;
}

const setting = (from: number, to: number, by: number, unit: Setting['unit'], usual: number): Setting => ({
  from,
  to,
  by,
  unit,
  usual,
});

type Numbers<Step> = { [Key in keyof Step as Step[Key] extends number ? Key : never]: Step[Key] };
type StepOf<Kind extends StepKind> = Extract<ChainStep, { kind: Kind }>;
type NumbersOf<Kind extends StepKind> = Omit<Numbers<StepOf<Kind>>, 'slopeDb' | 'mainsHz'>;

/** The numbers of every kind of step, and their limits. */
export const settings: { readonly [Kind in StepKind]: Readonly<Record<keyof NumbersOf<Kind>, Setting>> } = {
  rumble: { hertz: setting(20, 200, 5, 'Hz', 80) },
  hum: { widthHz: setting(2, 20, 1, 'Hz', 5) },
  room: { amountDb: setting(0, 20, 0.5, 'dB', 8) },
  pauses: {
    thresholdDb: setting(-80, -20, 1, 'dBFS', -46),
    hysteresisDb: setting(1, 12, 1, 'dB', 4),
    ratio: setting(1.5, 10, 0.5, 'to 1', 2),
    rangeDb: setting(1, 30, 0.5, 'dB', 10),
    aheadMs: setting(5, 60, 5, 'ms', 40),
    holdMs: setting(0, 500, 10, 'ms', 120),
    closeMs: setting(20, 1000, 10, 'ms', 200),
  },
  equaliser: {},
  sibilance: {
    hertz: setting(3000, 10_000, 100, 'Hz', 5600),
    thresholdDb: setting(-70, 0, 1, 'dBFS', -34),
    mostDb: setting(1, 18, 0.5, 'dB', 6),
  },
  phrases: {
    towardsDb: setting(-40, -10, 0.5, 'dBFS', -23),
    mostDb: setting(0.5, 12, 0.5, 'dB', 4),
    seconds: setting(1, 6, 0.5, 's', 3),
  },
  even: {
    thresholdDb: setting(-60, 0, 1, 'dBFS', -24),
    ratio: setting(1, 20, 0.5, 'to 1', 3),
    kneeDb: setting(0, 24, 1, 'dB', 6),
    attackMs: setting(1, 100, 1, 'ms', 8),
    releaseMs: setting(40, 1000, 10, 'ms', 120),
    makeUpDb: setting(0, 24, 0.5, 'dB', 0),
  },
  plosives: {
    hertz: setting(60, 250, 5, 'Hz', 120),
    overDb: setting(3, 24, 1, 'dB', 9),
    mostDb: setting(3, 30, 1, 'dB', 15),
  },
  ceiling: {
    gainDb: setting(-24, 24, 0.5, 'dB', 0),
    ceilingDb: setting(-20, 0, 0.1, 'dBFS', -3.5),
  },
};

/** The numbers of a band of an equaliser. */
export const bandSettings = {
  hertz: setting(20, 20_000, 10, 'Hz', 1000),
  gainDb: setting(-18, 18, 0.5, 'dB', 0),
  q: setting(0.1, 12, 0.1, 'to 1', 1),
} as const;

/** What of a step is one of a few. */
export const choices = {
  rumble: { slopeDb: [12, 24, 48] },
  hum: { mainsHz: [50, 60] },
  room: {},
  pauses: { by: ['level', 'speech'] },
  equaliser: {},
  sibilance: {},
  phrases: {},
  even: { detector: ['peak', 'rms'] },
  plosives: {},
  ceiling: { peaks: ['sample', 'true'] },
} as const satisfies Record<StepKind, Record<string, readonly (string | number)[]>>;

/** The highest multiple of the mains frequency a notch is put at. */
export const highestHarmonic = 20;

/**
 * Every kind in the order in which steps usually stand (*common practice*): a new one takes its place
 * there.
 */
export const usualOrder: readonly StepKind[] = [
  'rumble',
  'hum',
  'plosives',
  'room',
  'pauses',
  'equaliser',
  'sibilance',
  'phrases',
  'even',
  'ceiling',
];

const usualNumbers = (kind: StepKind) =>
  Object.fromEntries(Object.entries<Setting>(settings[kind]).map(([name, { usual }]) => [name, usual]));

const rest: { readonly [Kind in StepKind]: object } = {
  rumble: { slopeDb: 24 },
  hum: { mainsHz: 50, harmonics: [1, 2, 3, 4] },
  room: { profile: null },
  pauses: { by: 'level', roomDb: null },
  equaliser: { bands: [] },
  sibilance: {},
  phrases: {},
  even: { detector: 'rms' },
  plosives: {},
  ceiling: { peaks: 'true' },
};

/** A step as it begins, on, with the values that are usual. */
export const usualStep = <Kind extends StepKind>(kind: Kind, id: string): StepOf<Kind> =>
  ({ kind, id, on: true, ...usualNumbers(kind), ...rest[kind] }) as unknown as StepOf<Kind>;

/** The chain with a new step where its kind usually stands; as it is when it is full. */
export function addStep(chain: Chain, step: ChainStep): Chain {
  if (chain.steps.length >= mostSteps) return chain;
  const rank = usualOrder.indexOf(step.kind);
  const after = chain.steps.findIndex(({ kind }) => usualOrder.indexOf(kind) > rank);
  const at = after < 0 ? chain.steps.length : after;
  return { ...chain, steps: [...chain.steps.slice(0, at), step, ...chain.steps.slice(at)] };
}
