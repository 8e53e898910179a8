import { say } from '@/texts/say';
import { create } from 'zustand';
import type { UnderSpeech } from '@/core/specs/underSpeech';
import { secondsToFrames } from '@/core/base/units';
import { othersAlone } from '@/core/speech/turns';
import type { Speech } from '@/core/speech/voiceActivity';
import {
  defaultDucking,
  defaultSofter,
  duckedPoints,
  passagesOf,
  shortestSofterSeconds,
  type Ducking,
} from '@/core/timeline/ducking';
import type { Mix } from '@/core/timeline/mix';
import { bedsOf, changeStrip, stripOf } from '@/core/timeline/mixEdits';
import { soundingOf } from '@/core/timeline/sounding';
import { clockOf, type Timeline } from '@/core/timeline/timeline';
import { useTransport } from '../hearing/transport';
import { planClient, runShown, useJob } from '../page/jobs';
import { notify, notifyError } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject, soundingSettings, sourceLengths } from '../project/openProject';
import { noteFound, usePart } from '../sheet/part';
import { chosenStrip, setStrip } from './strips';
import { allSpeech, voicesSpeech } from './words';

/** How far a bed lies under speech, as it was measured last. */
interface Measured {
  readonly partId: string;
  readonly bedId: string;
  /** The mix that was measured: of another one nothing is known yet. */
  readonly mix: Mix | undefined;
  readonly passages: readonly UnderSpeech[];
}

export const useUnderSpeech = create<{ measured: Measured | null }>(() => ({ measured: null }));
whenProjectCloses(() => useUnderSpeech.setState({ measured: null }));

const isVoice = (timeline: Timeline, id: string) => timeline.tracks.some((track) => track.id === id);

export function duckingOf(id: string): Ducking {
  const { timeline } = usePart.getState();
  return stripOf(timeline, id).ducking ?? (isVoice(timeline, id) ? defaultSofter : defaultDucking);
}

const nobodySpeaks = () =>
  notify('info', say`Nobody speaks in this part yet: there is nothing to go down for.`);

/**
 * Writes the level points with which a bed goes down under speech, or a microphone while only others speak,
 * anew; what was set by hand stays. One step that can be undone.
 */
export async function duck(stripId: string, ducking = duckingOf(stripId)): Promise<void> {
  const { timeline } = usePart.getState();
  const found = await passagesFor(stripId, ducking);
  if (!found) return;
  if (found.length === 0)
    return isVoice(timeline, stripId)
      ? notify('info', say`Nobody else speaks alone in this part: this microphone stays as it is.`)
      : nobodySpeaks();
  setStrip(stripId, { points: written(timeline, stripId, found, ducking), ducking });
  writtenFor.set(stripId, timeline);
}

/** What a strip goes down for; null when it was cancelled, or the part was edited meanwhile. */
async function passagesFor(stripId: string, ducking: Ducking): Promise<Speech[] | null> {
  const { id, timeline } = usePart.getState();
  const found = await runShown(say`Listening for speech`, async (options) =>
    isVoice(timeline, stripId)
      ? whileOthersSpeak(await voicesSpeech(timeline, options), stripId, ducking)
      : passagesOf(await allSpeech(timeline, options), ducking, rateOfProject()),
  );
  const now = usePart.getState();
  // Nothing is written for times that are no more.
  return now.id === id && sameSpeech(now.timeline, timeline) ? found : null;
}

const written = (timeline: Timeline, stripId: string, passages: readonly Speech[], ducking: Ducking) =>
  duckedPoints(stripOf(timeline, stripId).points, passages, ducking, clockOf(timeline), rateOfProject());

type Spoken = Pick<Timeline, 'tracks' | 'struck'>;
const sameSpeech = (a: Spoken, b: Spoken) => a.tracks === b.tracks && a.struck === b.struck;

/** The speech each strip's points were written for, or that was there when its part was opened. */
const writtenFor = new Map<string, Spoken>();
whenProjectCloses(() => writtenFor.clear());

/** Takes the points of a part that is opened for those of its speech. Returns what ends it. */
export const rememberSpeech = (): (() => void) =>
  usePart.subscribe(({ id, timeline }, before) => {
    if (id !== before.id)
      for (const strip of timeline.mix?.strips ?? []) if (strip.ducking) writtenFor.set(strip.id, timeline);
  });

const restMs = 800;

/**
 * Where speech was edited since, what goes down for it is written anew: no step of the history, as it follows
 * from one. What was set by hand stays. Returns what ends it.
 */
export function followSpeech(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const renew = async () => {
    const { id, timeline } = usePart.getState();
    if (useTransport.getState().mode !== 'idle' || useJob.getState().job) return later();
    for (const { id: stripId, ducking } of timeline.mix?.strips ?? []) {
      const known = writtenFor.get(stripId);
      if (!ducking || !known || sameSpeech(known, timeline)) continue;
      writtenFor.set(stripId, timeline);
      const found = await passagesFor(stripId, ducking);
      if (!found || usePart.getState().id !== id) continue;
      noteFound((now) => changeStrip(now, stripId, { points: written(now, stripId, found, ducking) }));
    }
  };
  const later = () => {
    clearTimeout(timer);
    timer = setTimeout(() => void renew().catch(notifyError), restMs);
  };
  const forget = usePart.subscribe((now, before) => {
    if (now.id !== before.id || !sameSpeech(now.timeline, before.timeline)) later();
  });
  later();
  return () => {
    clearTimeout(timer);
    forget();
  };
}

/** Going down begins when the voice has ended, and it is up again before the voice begins. */
function whileOthersSpeak(
  speech: ReadonlyMap<string, readonly Speech[]>,
  own: string,
  { downSeconds, waitSeconds, upSeconds }: Ducking,
): Speech[] {
  const rateHz = rateOfProject();
  const others = [...speech].filter(([track]) => track !== own).map(([, stretches]) => stretches);
  return othersAlone(speech.get(own) ?? [], others, {
    before: secondsToFrames(waitSeconds + upSeconds, rateHz),
    after: secondsToFrames(downSeconds, rateHz),
    shortest: secondsToFrames(shortestSofterSeconds, rateHz),
  });
}

/** Makes the microphone that keys are for softer while only others speak. */
export async function softenChosen(): Promise<void> {
  const { timeline } = usePart.getState();
  const { id } = chosenStrip();
  if (timeline.tracks.length < 2 || !isVoice(timeline, id))
    return notify(
      'info',
      say`Choose one of several voices first: it becomes softer while only others speak.`,
    );
  await duck(id);
}

/** Takes away what was written for speech; points set by hand stay. */
export function neverDuck(stripId: string): void {
  const { points } = stripOf(usePart.getState().timeline, stripId);
  setStrip(stripId, { points: points.filter(({ passage }) => passage === undefined), ducking: undefined });
}

/** Measures how far a bed lies under the voices, passage by passage. */
export async function measureUnder(bedId: string): Promise<void> {
  const { id, timeline } = usePart.getState();
  if (!id) return;
  const passages = await runShown(say`Measuring the bed under speech`, async (options) => {
    const speech = await allSpeech(timeline, options);
    const beds = new Set(bedsOf(timeline).map((bed) => bed.id));
    const settings = soundingSettings();
    const input = {
      voices: soundingOf(timeline, settings, (one) => !beds.has(one)),
      bed: soundingOf(timeline, settings, (one) => one === bedId),
      sources: sourceLengths(),
      passages: passagesOf(speech, duckingOf(bedId), rateOfProject()),
    };
    return planClient.run('underSpeech', input, options);
  });
  if (!passages) return;
  if (passages.length === 0) return nobodySpeaks();
  useUnderSpeech.setState({ measured: { partId: id, bedId, mix: timeline.mix, passages } });
}

/** For the bed that keys are for; the first one where that is a voice. */
export async function duckChosen(): Promise<void> {
  const { timeline } = usePart.getState();
  const beds = bedsOf(timeline);
  const bed = beds.find(({ id }) => id === chosenStrip().id) ?? beds[0];
  if (!bed) return notify('info', say`This part has no bed. Add a sound first.`);
  await duck(bed.id);
}
