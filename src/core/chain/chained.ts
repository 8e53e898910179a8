import { exhaustive } from '../base/errors';
import { butterworthHighPass, cookbook } from '../dsp/cookbook';
import type { BiquadCoefficients } from '../dsp/kernels/kernels';
import { plosivesRule, shelvedPart, sibilanceRule } from './bandRules';
import { ceiling } from './ceiling';
import { audioTrack, gridOf, type Grid, type Track } from './cells';
import { sameStep, type ChainStep, type EqualiserStep, type HumStep } from './chain';
import { evenRule } from './even';
import { filtered } from './filterTrack';
import { turned, type Turned } from './gainTrack';
import { pausesRule } from './pauses';
import { phrasesRule } from './phrases';
import { softerRoom } from './softerRoom';

/** A step as it runs. */
export interface Stage {
  readonly step: ChainStep;
  readonly audio: Track;
  /** How far it turns up or down, tick by tick; null for what is a filter. */
  readonly gainsDb: Track | null;
}

/** The notches of a step, those that stand under half the rate. */
export const humSections = ({ mainsHz, harmonics, widthHz }: HumStep, rateHz: number): BiquadCoefficients[] =>
  harmonics
    .map((multiple) => multiple * mainsHz)
    .filter((hertz) => hertz < 0.45 * rateHz)
    .map((hertz) => cookbook({ shape: 'notch', hertz, gainDb: 0, q: hertz / widthHz }, rateHz));

/** The bands of an equaliser that do something. */
export const equaliserSections = (
  { bands }: Pick<EqualiserStep, 'bands'>,
  rateHz: number,
): BiquadCoefficients[] =>
  bands
    .filter(({ shape, gainDb }) => gainDb !== 0 || !['bell', 'lowShelf', 'highShelf'].includes(shape))
    .map((band) => cookbook(band, rateHz));

function stageOf(step: ChainStep, input: Track, grid: Grid): Stage {
  const { rateHz } = grid;
  const filter = (sections: BiquadCoefficients[]): Stage => ({
    step,
    audio: filtered(input, sections, grid),
    gainsDb: null,
  });
  const of = ({ audio, gainsDb }: Turned): Stage => ({ step, audio, gainsDb });
  switch (step.kind) {
    case 'rumble':
      return filter(butterworthHighPass(step.hertz, step.slopeDb / 6, rateHz));
    case 'hum':
      return filter(humSections(step, rateHz));
    case 'equaliser':
      return filter(equaliserSections(step, rateHz));
    case 'room': {
      const audio = step.profile && step.amountDb > 0 ? softerRoom(input, step.profile, step, grid) : input;
      return { step, audio, gainsDb: null };
    }
    case 'pauses':
      return of(turned(input, pausesRule(input, step, grid), grid));
    case 'even':
      return of(turned(input, evenRule(input, step, grid), grid));
    case 'phrases':
      return of(turned(input, phrasesRule(input, step, grid), grid));
    case 'sibilance': {
      const part = shelvedPart(input, { ...step, shape: 'highShelf' }, grid);
      return of(turned(input, sibilanceRule(input, step, grid), grid, part));
    }
    case 'plosives': {
      const part = shelvedPart(input, { ...step, shape: 'lowShelf' }, grid);
      return of(turned(input, plosivesRule(input, step, grid), grid, part));
    }
    case 'ceiling':
      return of(ceiling(input, step, grid));
    default:
      return exhaustive(step);
  }
}

/**
 * A voice through a chain: audio as a function of the range alone, so any chunking and any starting point
 * give the same samples. Each step is made in cells of one grid and looks only at what is around them.
 */
export class ChainedVoice implements Track {
  private constructor(
    private readonly input: Track,
    readonly grid: Grid,
    /** The steps that are on, in their order. */
    readonly stages: readonly Stage[],
  ) {}

  /** `input` gives silence before the voice and after it. */
  static of(input: Track, steps: readonly ChainStep[], rateHz: number): ChainedVoice {
    const grid = gridOf(rateHz);
    const held = audioTrack(input.channels, input.reach, grid, (from) => input.read(from, grid.cellFrames));
    return new ChainedVoice(held, grid, []).with(steps);
  }

  /**
   * The same voice through another chain; steps that are the same up to the first other one go on as they
   * are.
   */
  with(steps: readonly ChainStep[]): ChainedVoice {
    const { input, grid } = this;
    const stages: Stage[] = [];
    steps
      .filter(({ on }) => on)
      .forEach((step, index) => {
        const known = this.stages[index] as Stage | undefined;
        const before = stages[index - 1] as Stage | undefined;
        const same = index === 0 || before === this.stages[index - 1];
        const goesOn = known && same && sameStep(known.step, step);
        stages.push(goesOn ? known : stageOf(step, before?.audio ?? input, grid));
      });
    return new ChainedVoice(input, grid, stages);
  }

  get channels() {
    return this.input.channels;
  }

  get reach() {
    return this.last.reach;
  }

  read(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    return this.last.read(from, frames);
  }

  /** The voice as it comes in. */
  recorded(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    return this.input.read(from, frames);
  }

  private get last(): Track {
    return this.stages.at(-1)?.audio ?? this.input;
  }
}
