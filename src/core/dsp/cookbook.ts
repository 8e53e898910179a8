import type { BiquadCoefficients } from './kernels/kernels';

/** What a band of an equaliser does around or beyond its frequency. */
export const bandShapes = ['bell', 'lowShelf', 'highShelf', 'lowPass', 'highPass', 'notch'] as const;
export type BandShape = (typeof bandShapes)[number];

/** A second-order filter as it is thought of: `gainDb` counts for a bell and the shelves alone. */
export interface Band {
  readonly shape: BandShape;
  /** Middle of a bell or a notch, corner of the others, in hertz. */
  readonly hertz: number;
  readonly gainDb: number;
  /** Middle frequency over width for a bell and a notch; 1/√2 is a Butterworth corner. */
  readonly q: number;
}

/** Frequencies beyond this part of the rate are taken as this: half the rate itself has no filter. */
const highestPart = 0.49;

/**
 * The section of a band. Source: R. Bristow-Johnson, Cookbook formulae for audio EQ biquad filter
 * coefficients (W3C Working Group Note 2021).
 */
export function cookbook({ shape, hertz, gainDb, q }: Band, rateHz: number): BiquadCoefficients {
  const w = 2 * Math.PI * Math.min(hertz / rateHz, highestPart);
  const cos = Math.cos(w);
  const alpha = Math.sin(w) / (2 * q);
  const a = 10 ** (gainDb / 40);
  switch (shape) {
    case 'bell':
      return section([1 + alpha * a, -2 * cos, 1 - alpha * a], [1 + alpha / a, -2 * cos, 1 - alpha / a]);
    case 'notch':
      return section([1, -2 * cos, 1], [1 + alpha, -2 * cos, 1 - alpha]);
    case 'lowPass':
      return section([(1 - cos) / 2, 1 - cos, (1 - cos) / 2], [1 + alpha, -2 * cos, 1 - alpha]);
    case 'highPass':
      return section([(1 + cos) / 2, -1 - cos, (1 + cos) / 2], [1 + alpha, -2 * cos, 1 - alpha]);
    case 'lowShelf':
      return shelf(a, cos, alpha);
    case 'highShelf': {
      // A high shelf is a low one with the frequency axis turned round.
      const { b0, b1, b2, a1, a2 } = shelf(a, -cos, alpha);
      return { b0, b1: -b1, b2, a1: -a1, a2 };
    }
  }
}

type Three = readonly [number, number, number];

const section = ([b0, b1, b2]: Three, [a0, a1, a2]: Three): BiquadCoefficients => ({
  b0: b0 / a0,
  b1: b1 / a0,
  b2: b2 / a0,
  a1: a1 / a0,
  a2: a2 / a0,
});

function shelf(a: number, cos: number, alpha: number): BiquadCoefficients {
  const [sum, less] = [a + 1, a - 1];
  const bend = 2 * Math.sqrt(a) * alpha;
  return section(
    [a * (sum - less * cos + bend), 2 * a * (less - sum * cos), a * (sum - less * cos - bend)],
    [sum + less * cos + bend, -2 * (less + sum * cos), sum + less * cos - bend],
  );
}

/**
 * A Butterworth high-pass of an even order as sections in a row: −3.01 dB at the corner, 6 dB an octave for
 * each order under it. The poles lie evenly on a half circle, which gives each section its Q.
 */
export function butterworthHighPass(hertz: number, order: number, rateHz: number): BiquadCoefficients[] {
  return Array.from({ length: order / 2 }, (_, k) => {
    const q = 1 / (2 * Math.cos((Math.PI * (2 * k + 1)) / (2 * order)));
    return cookbook({ shape: 'highPass', hertz, gainDb: 0, q }, rateHz);
  });
}

/** Gain of sections in a row at a frequency, dB; −∞ where nothing passes. */
export function responseDb(sections: readonly BiquadCoefficients[], hertz: number, rateHz: number): number {
  const w = (2 * Math.PI * hertz) / rateHz;
  const [c1, s1, c2, s2] = [Math.cos(w), Math.sin(w), Math.cos(2 * w), Math.sin(2 * w)];
  const power = (x0: number, x1: number, x2: number) =>
    (x0 + x1 * c1 + x2 * c2) ** 2 + (x1 * s1 + x2 * s2) ** 2;
  return sections.reduce(
    (sum, { b0, b1, b2, a1, a2 }) => sum + 10 * Math.log10(power(b0, b1, b2) / power(1, a1, a2)),
    0,
  );
}

/** What is left of the past counts as nothing under this part of full scale: −126 dB. */
const settled = 10 ** (-126 / 20);

/**
 * Frames after which sections that began at rest give what they would have given had they always run, for
 * any audio up to full scale and to within −126 dB: the rest of their impulse response adds up to no more.
 */
export function settlingFrames(sections: readonly BiquadCoefficients[]): number {
  if (sections.length === 0) return 0;
  const radius = Math.max(...sections.map(largestPole));
  // Several poles at one place ring longer than one does.
  const most = Math.ceil((20 * (1 + sections.length / 8)) / -Math.log(Math.min(radius, 1 - 1e-6))) + 16;
  const response = impulseResponse(sections, most);
  let rest = 0;
  for (let frame = most - 1; frame >= 0; frame--) {
    rest += Math.abs(response[frame]);
    if (rest > settled) return frame + 1;
  }
  return 0;
}

/** The largest distance of a pole from the centre. */
function largestPole({ a1, a2 }: BiquadCoefficients): number {
  const root = a1 * a1 - 4 * a2;
  return root < 0 ? Math.sqrt(a2) : (Math.abs(a1) + Math.sqrt(root)) / 2;
}

function impulseResponse(sections: readonly BiquadCoefficients[], frames: number): Float64Array {
  const response = new Float64Array(frames);
  response[0] = 1;
  for (const { b0, b1, b2, a1, a2 } of sections) {
    let s1 = 0;
    let s2 = 0;
    for (let i = 0; i < frames; i++) {
      const x = response[i];
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      response[i] = y;
    }
  }
  return response;
}
