import { say } from '@/texts/say';
import { within } from '@/core/base/waiting';
import { together } from '@/core/speech/severalVoices';
import { sentenceEnd, sentencePunch, sentencesOf, type Sentence } from '@/core/speech/sentences';
import { analysisClient } from '../page/jobs';
import { setCaret, usePart } from './part';
import { rateOfProject, sourceLengths } from '../project/openProject';
import { sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import type { Speech } from '@/core/speech/voiceActivity';
import { focusedTracks } from './staveFocus';

/** Sentences are looked for this far around a place; nobody reads a longer one. */
const lookSeconds = 45;

/** The tracks whose speech counts; null for all of them together. */
type Voices = ReadonlySet<string> | null;

/** Where somebody speaks around a sheet frame, struck passages included. */
async function speechAround(timeline: Timeline, voices: Voices, frame: number): Promise<Speech[]> {
  const rateHz = rateOfProject();
  const reach = lookSeconds * rateHz;
  const range = {
    from: Math.max(0, frame - reach),
    to: Math.min(sheetFramesOf(timeline), frame + reach),
  };
  if (range.to <= range.from) return [];
  const heard = timeline.tracks.filter(({ id }) => voices === null || voices.has(id));
  const found = heard.map(({ table: { pieces } }) =>
    analysisClient.run('speech', { pieces, range, sources: sourceLengths(), rateHz }),
  );
  return together(
    await within(Promise.all(found), longestMs, say`Looking for sentences took too long. Try again.`),
  );
}

const longestMs = 15_000;

const sentencesAround = async (timeline: Timeline, voices: Voices, frame: number): Promise<Sentence[]> =>
  sentencesOf(await speechAround(timeline, voices, frame), rateOfProject());

/** Speech, and sentences, around a sheet frame of the open part: of the focused track, or of all together. */
export const speechNear = (frame: number) =>
  speechAround(usePart.getState().timeline, focusedTracks(), frame);
export const sentencesNear = (frame: number) =>
  sentencesAround(usePart.getState().timeline, focusedTracks(), frame);

/** Where the sentence read at `head` began, as a punch; `back` sentences further back. */
export async function punchBefore(head: number, back: number, voices: Voices): Promise<number> {
  const sentences = await sentencesAround(usePart.getState().timeline, voices, head);
  return sentencePunch(sentences, head, back, rateOfProject());
}

/**
 * The end of the sentence into which `frame` of a timeline falls; `frame` itself in a pause or where that
 * cannot be told.
 */
export async function abandonedEnd(timeline: Timeline, voices: Voices, frame: number): Promise<number> {
  if (frame >= sheetFramesOf(timeline)) return frame;
  try {
    return sentenceEnd(await sentencesAround(timeline, voices, frame), frame);
  } catch {
    return frame;
  }
}

/** Moves the caret to the start of the sentence before it, or of the next one. */
export async function stepToSentence(direction: -1 | 1): Promise<void> {
  const { timeline, caret } = usePart.getState();
  const sentences = await sentencesAround(timeline, focusedTracks(), caret);
  const near = 0.02 * rateOfProject();
  const punches = sentences.map(({ punch }) => punch);
  const found =
    direction < 0
      ? punches.filter((punch) => punch < caret - near).pop()
      : punches.find((punch) => punch > caret + near);
  if (usePart.getState().timeline === timeline && found !== undefined) setCaret(found);
}
