import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import type { VoiceLevels } from '@/core/chain/chainWork';
import { framesOfSounding, sameSounding, type Sounding } from '@/core/timeline/sounding';
import { clockOf } from '@/core/timeline/timeline';
import type { MeasuredChain } from '@/workers/chainJobs';
import { useChainHearing } from '../hearing/chainHearing';
import { headFrame } from '../hearing/transport';
import { useMixing } from '../mix/strips';
import { chainClient } from '../page/jobs';
import { notifyError } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject, sourceLengths } from '../project/openProject';
import { usePart } from '../sheet/part';
import { chainOf, nowShown, voiceSounding } from './chains';

interface Measures {
  readonly measured: { readonly of: Sounding; readonly result: MeasuredChain } | null;
  /** 0 to 1 while it is measured. */
  readonly measuring: number | null;
}

const none: Measures = { measured: null, measuring: null };

export const useChainMeasures = create<Measures>(() => none);
whenProjectCloses(() => {
  controller?.abort();
  useChainMeasures.setState(none);
});

let controller: AbortController | null = null;

/** What a voice measures before and after its chain; null while that is not known of its sound now. */
export function measuresOf(sound: Sounding, { measured }: Pick<Measures, 'measured'>): MeasuredChain | null {
  return measured && sameSounding(measured.of, sound) ? measured.result : null;
}

/** Levels of a voice as it was recorded, as far as they have been measured. */
export function levelsOfVoice(voice: string): VoiceLevels | null {
  const { measured } = useChainMeasures.getState();
  const dry = voiceSounding(usePart.getState().timeline, voice, { dry: true });
  const same = measured && sameSounding(withoutChain(measured.of), dry);
  return same ? measured.result.work.recorded : null;
}

const withoutChain = (sounding: Sounding): Sounding => ({
  ...sounding,
  tracks: sounding.tracks.map(({ strip: _, ...track }) => track),
});

/** Measures the shown voice before and after its chain, unless it is known; what ran before is ended. */
export async function measureChain(): Promise<MeasuredChain | null> {
  const voice = nowShown();
  if (voice === null) return null;
  const sound = voiceSounding(usePart.getState().timeline, voice);
  const known = measuresOf(sound, useChainMeasures.getState());
  if (known) return known;
  if (framesOfSounding(sound) === 0) return null;
  // Whoever asks for what is being measured waits for it.
  if (running && sameSounding(running.of, sound)) return running.result;
  controller?.abort();
  const mine = (controller = new AbortController());
  const result = run(sound, mine);
  running = { of: sound, result };
  return result;
}

/** Whether it is the shown voice as it is now. */
function isShown(sound: Sounding): boolean {
  const voice = nowShown();
  return voice !== null && sameSounding(voiceSounding(usePart.getState().timeline, voice), sound);
}

let running: { of: Sounding; result: Promise<MeasuredChain | null> } | null = null;

async function run(sound: Sounding, mine: AbortController): Promise<MeasuredChain | null> {
  useChainMeasures.setState({ measuring: 0 });
  try {
    const result = await chainClient.run(
      'measure',
      { sounding: sound, sources: sourceLengths() },
      { signal: mine.signal, progress: (measuring) => useChainMeasures.setState({ measuring }) },
    );
    useChainMeasures.setState({ measured: { of: sound, result } });
    return result;
  } catch (thrown) {
    if (toParolaError(thrown).code !== 'cancelled') notifyError(thrown);
    return null;
  } finally {
    if (controller === mine) {
      running = null;
      useChainMeasures.setState({ measuring: null });
    }
  }
}

export function endMeasuringChain(): void {
  controller?.abort();
}

/** After a change it is measured once nothing has been changed for so long. */
const restMs = 500;
/** As much around what is heard is compared for equal loudness. */
const comparedSeconds = { before: 2, after: 10 } as const;
const compareEveryMs = 4000;

/**
 * While Finish is open: what the shown voice measures, and what it takes to hear it equally loud, follow
 * every change. Returns what ends it.
 */
export function followChain(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const later = () => {
    clearTimeout(timer);
    useChainHearing.setState({ voice: nowShown() });
    // What is measured of an earlier chain is not wanted any more.
    if (running && !isShown(running.of)) controller?.abort();
    timer = setTimeout(() => {
      void measureChain();
      void compareLoudness();
    }, restMs);
  };
  const forget = [
    usePart.subscribe((now, before) => {
      if (now.timeline !== before.timeline) later();
    }),
    useMixing.subscribe((now, before) => {
      if (now.chosen !== before.chosen || now.draft !== before.draft) later();
    }),
    useChainHearing.subscribe((now, before) => {
      if (now.hear !== before.hear || now.alone !== before.alone || now.equal !== before.equal)
        void compareLoudness();
    }),
  ];
  const moving = setInterval(() => {
    if (headFrame() !== null) void compareLoudness();
  }, compareEveryMs);
  later();
  return () => {
    clearTimeout(timer);
    clearInterval(moving);
    forget.forEach((stop) => stop());
    endMeasuringChain();
  };
}

let comparing = false;

/** Measures what is heard around the head, or the caret, as it was recorded and finished. */
async function compareLoudness(): Promise<void> {
  const voice = nowShown();
  const { timeline, caret } = usePart.getState();
  if (voice === null || comparing || chainOf(timeline, voice).steps.length === 0) return;
  const { equal } = useChainHearing.getState();
  if (!equal) return;
  comparing = true;
  try {
    const sounding = voiceSounding(timeline, voice);
    const clock = clockOf(timeline);
    const at = clock.sheetToHeard(headFrame() ?? caret);
    const rateHz = rateOfProject();
    const end = framesOfSounding(sounding);
    const from = Math.max(
      0,
      Math.min(at, end - comparedSeconds.after * rateHz) - comparedSeconds.before * rateHz,
    );
    const range = { from, to: Math.min(end, at + comparedSeconds.after * rateHz) };
    if (range.to <= range.from) return;
    const { recorded, finished } = await chainClient.run('compare', {
      sounding,
      sources: sourceLengths(),
      range,
    });
    const equalDb = recorded === null || finished === null ? null : finished - recorded;
    useChainHearing.setState({ equalDb });
  } catch {
    // Without it the two are heard as loud as they are, which the deck says.
    useChainHearing.setState({ equalDb: null });
  } finally {
    comparing = false;
  }
}
