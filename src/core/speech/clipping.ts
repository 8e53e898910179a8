import { clipThreshold } from '../base/audio';
import type { Speech } from './voiceActivity';

const shortestRun = 3;
const apartSeconds = 0.3;

/** Joins stretches that are less than `apartSeconds` from each other. */
function joined(stretches: readonly Speech[], rateHz: number): Speech[] {
  const result: Speech[] = [];
  for (const stretch of [...stretches].sort((a, b) => a.from - b.from)) {
    const last = result[result.length - 1];
    if (last && stretch.from - last.to < apartSeconds * rateHz) last.to = Math.max(last.to, stretch.to);
    else result.push({ ...stretch });
  }
  return result;
}

/**
 * Finds runs of at least three samples at full scale as audio streams by; any chunking gives the same. Frames
 * count from the start of the stream.
 */
export class FullScaleFinder {
  private readonly runs: Speech[] = [];
  private frames = 0;
  private run = 0;

  constructor(private readonly rateHz: number) {}

  process(samples: Float32Array): void {
    for (let i = 0; i < samples.length; i++) {
      const sample = samples[i];
      if (sample < clipThreshold && sample > -clipThreshold) {
        this.run = 0;
        continue;
      }
      if (++this.run < shortestRun) continue;
      const at = this.frames + i;
      const last = this.runs[this.runs.length - 1];
      if (last && last.to === at) last.to = at + 1;
      else this.runs.push({ from: at - shortestRun + 1, to: at + 1 });
    }
    this.frames += samples.length;
  }

  /** What was found so far; runs close together are one. */
  get found(): Speech[] {
    return joined(this.runs, this.rateHz);
  }
}

const windowSeconds = 0.04;
const quietestPeak = 0.2;
/**
 * A window with this share of its samples within 15 % of its peak has a flat top; of 30,000 windows of
 * recorded prompts none had more than 0.33.
 */
const flatShare = 0.4;
const nearPeak = 0.85;

/**
 * Words whose tops were cut off before the recording got its level, or before it was coded: they stay under
 * full scale, but are flat.
 */
export function findFlattened(samples: Float32Array, rateHz: number): Speech[] {
  const window = Math.round(windowSeconds * rateHz);
  const found: Speech[] = [];
  for (let from = 0; from + window <= samples.length; from += window) {
    let peak = 0;
    for (let i = from; i < from + window; i++) peak = Math.max(peak, Math.abs(samples[i]));
    if (peak < quietestPeak) continue;
    let near = 0;
    for (let i = from; i < from + window; i++) if (Math.abs(samples[i]) >= nearPeak * peak) near++;
    if (near / window >= flatShare) found.push({ from, to: from + window });
  }
  return joined(found, rateHz);
}
