import { sentenceEnd, sentencePunch, sentencesOf, type Sentence } from '@/core/speech/sentences';
import { analysisClient } from './jobs';
import { setCaret, usePart } from './part';
import { rateOfProject, sourceList } from './session';
import { sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import type { Speech } from '@/core/speech/voiceActivity';
import { focusedTracks } from './staveFocus';

/** Sentences are looked for this far around a place; nobody reads a longer one. */
const lookSeconds = 45;

/** Where somebody speaks on a track around a sheet frame, struck passages included. */
async function speechAround(
  timeline: Timeline,
  trackId: string | undefined,
  frame: number,
): Promise<Speech[]> {
  const rateHz = rateOfProject();
  const track = timeline.tracks.find(({ id }) => id === trackId) ?? timeline.tracks[0];
  const reach = lookSeconds * rateHz;
  const range = {
    from: Math.max(0, frame - reach),
    to: Math.min(sheetFramesOf(timeline), frame + reach),
  };
  if (range.to <= range.from) return [];
  return analysisClient.run('speech', {
    pieces: track.table.pieces,
    range,
    sources: sourceList().map(({ id, frames }) => ({ id, frames })),
    rateHz,
  });
}

const sentencesAround = async (
  timeline: Timeline,
  trackId: string | undefined,
  frame: number,
): Promise<Sentence[]> => sentencesOf(await speechAround(timeline, trackId, frame), rateOfProject());

/** Speech, and sentences, of the open part's focused (or first) track around a sheet frame. */
export const speechNear = (frame: number) =>
  speechAround(usePart.getState().timeline, [...(focusedTracks() ?? [])][0], frame);
export const sentencesNear = (frame: number) =>
  sentencesAround(usePart.getState().timeline, [...(focusedTracks() ?? [])][0], frame);

/** Where the sentence read at `head` began, as a punch; `back` sentences further back. */
export async function punchBefore(head: number, back: number, trackId?: string): Promise<number> {
  const sentences = await sentencesAround(usePart.getState().timeline, trackId, head);
  return sentencePunch(sentences, head, back, rateOfProject());
}

/** The end of the sentence into which `frame` of a timeline falls; `frame` itself in a pause or where that cannot be told. */
export async function abandonedEnd(
  timeline: Timeline,
  trackId: string | undefined,
  frame: number,
): Promise<number> {
  if (frame >= sheetFramesOf(timeline)) return frame;
  try {
    return sentenceEnd(await sentencesAround(timeline, trackId, frame), frame);
  } catch {
    return frame;
  }
}

/** Moves the caret to the start of the sentence before it, or of the next one. */
export async function stepToSentence(direction: -1 | 1): Promise<void> {
  const { timeline, caret } = usePart.getState();
  const sentences = await sentencesAround(timeline, undefined, caret);
  const near = 0.02 * rateOfProject();
  const punches = sentences.map(({ punch }) => punch);
  const found =
    direction < 0
      ? punches.filter((punch) => punch < caret - near).pop()
      : punches.find((punch) => punch > caret + near);
  if (usePart.getState().timeline === timeline && found !== undefined) setCaret(found);
}
