import { create } from 'zustand';
import type { Weather } from '@/core/far/simulatedLine';
import type { FarRecording, FilmShown, Moving, ScriptShown } from '@/core/far/messages';

/** A recording of this browser, and how much of it the studio has. */
export interface OwnRecording {
  readonly recording: FarRecording;
  readonly name: string;
  /** Where its blocks stand here. */
  readonly source: string;
  readonly sentFrames: number;
  /** All of it stands at the studio. */
  readonly kept: boolean;
}

/**
 * What the page of a talent shows. It goes from what will happen, by way of the microphone and the sound
 * check, to the session; who has been there before begins at the microphone.
 */
interface Talent {
  step: 'welcome' | 'microphone' | 'session' | 'left' | 'no-link';
  /** The text to send back to a studio that sent one; '' where a server is between. */
  answerText: string;
  name: string;
  consentAt: number | null;
  microphone: 'closed' | 'opening' | 'open' | 'failed';
  microphoneName: string;
  microphoneDetail: string;
  warnings: readonly string[];
  /** Where the line is: at the door, waiting to be let in, open, or away for now. */
  line: 'none' | 'door' | 'waiting' | 'opening' | 'open' | 'away' | 'refused';
  /** Why the studio cannot be reached, or ''. */
  unreached: string;
  project: string;
  script: ScriptShown | null;
  moving: Moving | null;
  /** The part’s picture; `address` once all of it is here. */
  film: (FilmShown & { readonly address: string | null; readonly here: number }) | null;
  recording: boolean;
  own: readonly OwnRecording[];
  /** The network of a guest who practises; null for everybody else. */
  weather: Weather | null;
  trouble: string;
  /** Why the session is over. */
  ended: string;
}

export const useTalent = create<Talent>(() => ({
  step: 'welcome',
  answerText: '',
  name: '',
  consentAt: null,
  microphone: 'closed',
  microphoneName: '',
  microphoneDetail: '',
  warnings: [],
  line: 'none',
  unreached: '',
  project: '',
  script: null,
  moving: null,
  film: null,
  recording: false,
  own: [],
  weather: null,
  trouble: '',
  ended: '',
}));
