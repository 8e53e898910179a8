import type { Alignment } from '@/core/dsp/alignment';
import type { LoopSeam } from '@/core/dsp/loopSeam';
import type { Loopback } from '@/core/recording/loopback';
import type { SoundCheck } from '@/core/recording/soundCheck';
import type { FindingOptions, Finding } from '@/core/speech/findings';
import type { Lag } from '@/core/speech/lag';
import type { RoomTone } from '@/core/speech/roomTone';
import type { VoicedSpeech } from '@/core/speech/severalVoices';
import type { Speech } from '@/core/speech/voiceActivity';
import type { Sounding } from '@/core/timeline/sounding';
import type { Piece } from '@/core/timeline/pieces';
import type { SourceRecord } from '@/storage/schema';

/** Channel 0 of a source, from its frame `from` on. */
export interface SourceStretch {
  source: string;
  from: number;
  frames: number;
}

/** All of one channel of a source. */
export interface RecordedChannel {
  source: string;
  channel: number;
  frames: number;
}

export interface FindInput {
  /** One track, or several that are heard as one. */
  sounding: Sounding;
  sources: Pick<SourceRecord, 'id' | 'frames'>[];
  /** Heard frames to report about; what is beside them is listened to as well. */
  range: { from: number; to: number };
  /** Heard frames at which a flub is marked. */
  marks: readonly number[];
  options: FindingOptions;
}

/** Everything in heard frames of the project's rate. */
export interface Found {
  findings: Finding[];
  speech: VoicedSpeech[];
  tone: RoomTone | null;
}

export type AnalysisJobs = {
  /** Columns of a spectrogram of one channel of a source (see core/dsp/spectrogram). */
  spectrogram: {
    input: {
      source: string;
      channel: number;
      sourceFrames: number;
      rateHz: number;
      from: number;
      columns: number;
      framesPerColumn: number;
    };
    output: Uint8Array;
  };
  /** What can be found in a range of what is heard of one track. */
  find: { input: FindInput; output: Found };
  /** Where somebody speaks on one track, struck passages included, in frames of sheet time inside `range`. */
  speech: {
    input: {
      pieces: readonly Piece[];
      range: { from: number; to: number };
      sources: Pick<SourceRecord, 'id' | 'frames'>[];
      rateHz: number;
    };
    output: Speech[];
  };
  /** Where a stretch of a source can go round, in frames of the source; null where it is too short. */
  loopSeam: {
    input: SourceStretch & { channels: number; rateHz: number; marginFrames: number };
    output: LoopSeam | null;
  };
  /** How far a voice is behind a guide, from the levels of both (see core/speech/lag). */
  lag: {
    input: {
      voice: Float32Array<ArrayBuffer>;
      guide: Float32Array<ArrayBuffer>;
      stepSeconds: number;
    };
    output: Lag[];
  };
  /** How two recordings of one conversation belong together (see core/dsp/alignment). */
  align: {
    input: {
      recordings: readonly [RecordedChannel, RecordedChannel];
      levels: readonly [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>];
      stepSeconds: number;
      rateHz: number;
    };
    output: Alignment | null;
  };
  /** A sound check from its three recordings, each `[source, from, frames]` of channel 0. */
  soundCheck: {
    input: { silent: SourceStretch; normal: SourceStretch; loudest: SourceStretch; rateHz: number };
    output: SoundCheck;
  };
  /** RMS of a silent stretch, dBFS; −∞ for digital silence. */
  roomLevel: { input: { silent: SourceStretch; rateHz: number }; output: number };
  /** The round trip of a loopback check, from what was captured from the first frame played on. */
  loopback: { input: { captured: SourceStretch; rateHz: number }; output: Loopback | null };
};
