import { toParolaError } from '@/core/base/errors';
import { defaultFindingOptions } from '@/core/speech/findings';
import type { VoicedSpeech } from '@/core/speech/severalVoices';
import { clearSpeech } from '@/core/timeline/ducking';
import type { Moment } from '@/core/timeline/bedClips';
import type { Words } from '@/core/timeline/mix';
import { bedsOf, withWords } from '@/core/timeline/mixEdits';
import type { Range } from '@/core/timeline/range';
import { removeTime } from '@/core/timeline/edits';
import { clockOf, heardFramesOf, sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import type { ReportProgress } from '@/workers/protocol';
import { lookThrough } from '../finds/lookThrough';
import { useTransport } from '../hearing/transport';
import { notifyError } from '../page/notices';
import { rateOfProject } from '../project/openProject';
import { noteFound, usePart } from '../sheet/part';

interface Watched {
  signal: AbortSignal;
  progress: ReportProgress;
}

const unwatched = (): Watched => ({ signal: new AbortController().signal, progress: () => undefined });

/**
 * A part without the empty time at its ends, and how much of the heard time was before: next to nothing at
 * all, a room would be taken for speech.
 */
function withoutEmptyEnds(timeline: Timeline): { timeline: Timeline; offset: number } {
  const end = sheetFramesOf(timeline);
  const ends = timeline.tracks.flatMap(({ table }) => {
    const first = table.pieces.findIndex(({ kind }) => kind !== 'silence');
    const last = table.pieces.findLastIndex(({ kind }) => kind !== 'silence');
    return first < 0 ? [] : [{ from: table.startOf(first), to: table.startOf(last + 1) }];
  });
  const from = Math.min(end, ...ends.map((range) => range.from));
  const to = Math.max(from, ...ends.map((range) => range.to));
  return {
    timeline: removeTime(removeTime(timeline, { from: to, to: end }), { from: 0, to: from }),
    offset: clockOf(timeline).sheetToHeard(from),
  };
}

/** What anybody clearly says, in heard frames and in order of time. */
export async function allSpeech(timeline: Timeline, watched: Watched): Promise<VoicedSpeech[]> {
  const { timeline: trimmed, offset } = withoutEmptyEnds(timeline);
  const speech = await speechIn(trimmed, { from: 0, to: heardFramesOf(trimmed) }, watched);
  return speech.map((stretch) => ({ ...stretch, from: stretch.from + offset, to: stretch.to + offset }));
}

/** What each voice says itself, in heard frames, by its track. */
export async function voicesSpeech(
  timeline: Timeline,
  watched: Watched,
): Promise<ReadonlyMap<string, VoicedSpeech[]>> {
  const { timeline: trimmed, offset } = withoutEmptyEnds(timeline);
  const { tracks } = await lookThrough(trimmed, { ...defaultFindingOptions, kinds: [] }, watched);
  return new Map(
    tracks.map(({ trackId, speech }) => [
      trackId,
      clearSpeech(speech).map((one) => ({ ...one, from: one.from + offset, to: one.to + offset })),
    ]),
  );
}

async function speechIn(timeline: Timeline, range: Range, watched: Watched): Promise<VoicedSpeech[]> {
  const nothingElse = { ...defaultFindingOptions, kinds: [] };
  const { tracks } = await lookThrough(timeline, nothingElse, watched, range);
  return clearSpeech(tracks.flatMap(({ speech }) => speech).sort((a, b) => a.from - b.from));
}

/** Where words are looked for first, at either end; where nobody speaks in it, further in. */
const firstLookSeconds = 60;

/** Finds the first and the last word that is heard, in sheet frames; null where nobody speaks. */
export async function findWords(timeline: Timeline, watched = unwatched()): Promise<Words | null> {
  const { timeline: trimmed, offset } = withoutEmptyEnds(timeline);
  const end = heardFramesOf(trimmed);
  const clock = clockOf(timeline);
  const look = async (rangeOf: (frames: number) => Range): Promise<VoicedSpeech[]> => {
    for (let frames = firstLookSeconds * rateOfProject(); ; frames *= 8) {
      const speech = await speechIn(trimmed, rangeOf(Math.min(frames, end)), watched);
      if (speech.length > 0 || frames >= end) return speech;
    }
  };
  const [first] = await look((frames) => ({ from: 0, to: frames }));
  if (!first) return null;
  const last = await look((frames) => ({ from: end - frames, to: end }));
  const lastTo = last.reduce((latest, { to }) => Math.max(latest, to), first.to);
  return {
    first: clock.heardToSheet(offset + first.from),
    last: clock.heardToSheet(offset + lastTo - 1) + 1,
  };
}

const ofWords = ({ kind }: Moment) => kind === 'firstWord' || kind === 'lastWord';

/** A clip of a part holds on to its first or its last word. */
export const holdsOnWords = (timeline: Timeline): boolean =>
  bedsOf(timeline).some(({ clips }) =>
    clips.some(({ begin, end }) => ofWords(begin.moment) || (end !== 'sound' && ofWords(end.moment))),
  );

const restMs = 500;

/**
 * Looks for the first and the last word anew when what is heard of the open part was edited, and a bed holds
 * on to them. Returns what ends it.
 */
export function followWords(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const renew = async () => {
    const { id, timeline } = usePart.getState();
    if (useTransport.getState().mode !== 'idle') return later();
    try {
      const words = await findWords(timeline);
      const now = usePart.getState();
      const same = now.timeline.tracks === timeline.tracks && now.timeline.struck === timeline.struck;
      if (words && now.id === id && same) noteFound((current) => withWords(current, words));
    } catch (thrown) {
      if (toParolaError(thrown).code !== 'cancelled') notifyError(thrown);
    }
  };
  const later = () => {
    clearTimeout(timer);
    timer = setTimeout(() => void renew(), restMs);
  };
  const forget = usePart.subscribe((now, before) => {
    const edited =
      now.timeline.tracks !== before.timeline.tracks || now.timeline.struck !== before.timeline.struck;
    // Of a part that is opened they are known, unless it was edited and closed at once.
    const opened = now.id !== before.id && !now.timeline.mix?.words;
    if ((opened || (edited && now.id === before.id)) && holdsOnWords(now.timeline)) later();
  });
  return () => {
    clearTimeout(timer);
    forget();
  };
}
