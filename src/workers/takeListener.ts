import type { Planar } from '@/core/base/audio';
import { Meter, type Measurement } from '@/core/loudness/measure';
import { LevelWatch, type Finding, type Signal } from '@/core/recording/levelWatch';
import { ClapDetector } from '@/core/speech/claps';
import type { TakeSummary } from '@/storage/schema';

const isClipped = ({ kind }: Finding) => kind === 'clipped';
const isFaint = ({ kind }: Finding) => kind === 'faint';

/** The larger magnitude of all channels, sample by sample. */
function loudestOf(audio: Planar): Float32Array {
  if (audio.length === 1) return audio[0];
  return audio[0].map((value, i) =>
    audio.reduce((most, samples) => Math.max(most, Math.abs(samples[i])), Math.abs(value)),
  );
}

const finite = (level: number) => (Number.isFinite(level) ? Math.round(level * 100) / 100 : null);

/** What the list of takes says of a measurement. */
export const summaryOf = ({ samplePeakDbfs, integratedLufs, clippedSamples }: Measurement): TakeSummary => ({
  peakDbfs: finite(samplePeakDbfs),
  loudnessLufs: finite(integratedLufs),
  clippedSamples,
});

/**
 * Listens to a take while it is recorded: levels for its summary, claps, passages that clipped or stayed
 * faint.
 */
export class TakeListener {
  private readonly meter: Meter;
  private readonly watches: LevelWatch[];
  /**
   * Watches whoever is loudest at the moment: a voice that is faint on the neighbour's microphone is not
   * faint.
   */
  private readonly loudest: LevelWatch;
  private readonly claps: ClapDetector[];
  private readonly signals: Signal[];

  constructor(
    rateHz: number,
    private readonly channels: number,
  ) {
    const each = <T>(make: () => T) => Array.from({ length: channels }, make);
    this.meter = new Meter(rateHz, channels);
    this.watches = each(() => new LevelWatch(rateHz));
    this.loudest = new LevelWatch(rateHz);
    this.claps = each(() => new ClapDetector(rateHz));
    this.signals = each(() => 'sound');
  }

  /** The take's own audio, without handles. One clap heard by two microphones is one clap. */
  process(audio: Planar): Finding[] {
    this.meter.process(audio);
    const findings: Finding[] = [];
    for (let channel = 0; channel < this.channels; channel++) {
      for (const at of this.claps[channel].process(audio[channel])) {
        findings.push({ kind: 'clap', at, length: 0 });
      }
      findings.push(...this.watches[channel].process(audio[channel]).filter(isClipped));
    }
    findings.push(...this.loudest.process(loudestOf(audio)).filter(isFaint));
    return findings;
  }

  /** Channels whose signal has come or gone since the last call. */
  changedSignals(): { channel: number; signal: Signal }[] {
    return this.watches.flatMap(({ signal }, channel) => {
      if (signal === this.signals[channel]) return [];
      this.signals[channel] = signal;
      return [{ channel, signal }];
    });
  }

  finish(): { findings: Finding[]; summary: TakeSummary } {
    return {
      findings: [
        ...this.watches.flatMap((watch) => watch.finish().filter(isClipped)),
        ...this.loudest.finish().filter(isFaint),
      ],
      summary: summaryOf(this.meter.finish()),
    };
  }
}
