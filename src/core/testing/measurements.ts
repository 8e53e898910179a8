import { Meter, type Measurement } from '../loudness/measure';

/** The measurement of a second of silence, with these figures in their places. */
export function measurementWith(figures: Partial<Measurement>): Measurement {
  const meter = new Meter(48_000, 1);
  meter.process([new Float32Array(48_000)]);
  return { ...meter.finish(), silences: [], digitalSilenceSeconds: 0, ...figures };
}
