import { create } from 'zustand';
import type { UnderSpeech } from '@/core/specs/underSpeech';
import { defaultDucking, duckedPoints, passagesOf, type Ducking } from '@/core/timeline/ducking';
import type { Mix } from '@/core/timeline/mix';
import { bedsOf, stripOf } from '@/core/timeline/mixEdits';
import { soundingOf } from '@/core/timeline/sounding';
import { clockOf } from '@/core/timeline/timeline';
import { planClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject, soundingSettings, sourceLengths } from '../project/openProject';
import { usePart } from '../sheet/part';
import { chosenStrip, setStrip } from './strips';
import { allSpeech } from './words';

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

export const duckingOf = (bedId: string): Ducking =>
  stripOf(usePart.getState().timeline, bedId).ducking ?? defaultDucking;

const nobodySpeaks = () => notify('info', 'Nobody speaks in this part yet: there is nothing to go down for.');

/**
 * Writes the level points with which a bed goes down under speech, anew; what was set by hand stays. One step
 * that can be undone.
 */
export async function duck(bedId: string, ducking = duckingOf(bedId)): Promise<void> {
  const { id, timeline } = usePart.getState();
  const speech = await runShown('Listening for speech', (options) => allSpeech(timeline, options));
  const now = usePart.getState();
  // Another edit has come in between: nothing is written for times that are no more.
  if (!speech || now.id !== id || now.timeline.tracks !== timeline.tracks) return;
  if (speech.length === 0) return nobodySpeaks();
  const rateHz = rateOfProject();
  const passages = passagesOf(speech, ducking, rateHz);
  const { points } = stripOf(now.timeline, bedId);
  setStrip(bedId, { points: duckedPoints(points, passages, ducking, clockOf(timeline), rateHz), ducking });
}

/** Takes away what was written for speech; points set by hand stay. */
export function neverDuck(bedId: string): void {
  const { points } = stripOf(usePart.getState().timeline, bedId);
  setStrip(bedId, { points: points.filter(({ passage }) => passage === undefined), ducking: undefined });
}

/** Measures how far a bed lies under the voices, passage by passage. */
export async function measureUnder(bedId: string): Promise<void> {
  const { id, timeline } = usePart.getState();
  if (!id) return;
  const passages = await runShown('Measuring the bed under speech', async (options) => {
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
  if (!bed) return notify('info', 'This part has no bed. Add a sound first.');
  await duck(bed.id);
}
