import type { Planar } from '@/core/base/audio';
import { Meter } from '@/core/loudness/measure';
import { LevelWatch, type Finding, type Signal } from '@/core/recording/levelWatch';
import { ClapDetector } from '@/core/speech/claps';
import type { TakeSummary } from '@/storage/schema';

const finite = (level: number) => (Number.isFinite(level) ? Math.round(level * 100) / 100 : null);

/** Listens to a take while it is recorded: levels for its summary, claps, passages that clipped or stayed faint. */
export class TakeListener {
  private readonly meter: Meter;
  private readonly watches: LevelWatch[];
  private readonly claps: ClapDetector[];
  private readonly signals: Signal[];

  constructor(
    rateHz: number,
    private readonly channels: number,
  ) {
    const each = <T>(make: () => T) => Array.from({ length: channels }, make);
    this.meter = new Meter(rateHz, channels);
    this.watches = each(() => new LevelWatch(rateHz));
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
      findings.push(...this.watches[channel].process(audio[channel]));
    }
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
    const { samplePeakDbfs, integratedLufs, clippedSamples } = this.meter.finish();
    return {
      findings: this.watches.flatMap((watch) => watch.finish()),
      summary: {
        peakDbfs: finite(samplePeakDbfs),
        loudnessLufs: finite(integratedLufs),
        clippedSamples,
      },
    };
  }
}
