import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { tradeRate, type Film } from '@/core/cues/film';
import { rates } from '@/core/cues/timecode';
import { cueSheetOf, setCueTime } from '@/core/timeline/cueEdits';
import { addMarks } from '@/core/timeline/edits';
import { addGuide, isInStep } from '@/core/timeline/guides';
import type { Piece } from '@/core/timeline/pieces';
import { overlay, type Recorded } from '@/core/timeline/overlay';
import { insertRecording } from '@/core/timeline/takes';
import { addTrack, changeTrack } from '@/core/timeline/tracks';
import { sheetFramesOf, type Mark, type Timeline } from '@/core/timeline/timeline';
import { loadTimeline } from '@/core/timeline/stored';
import { newId } from '@/storage/projects';
import { finishSource } from '@/storage/sources';
import type { FoundSound, ImportedSound } from '@/workers/importJobs';
import { notify } from '../page/notices';
import { edit, editPart, setCaret, usePart } from '../sheet/part';
import { addPart, removePart, selectPart } from '../sheet/parts';
import { partRecord, rateOfProject, rememberSource, type SourceRecord } from '../project/openProject';

/**
 * Where imported files go: each a part of its own; into a gap at the caret; over one track from the caret on,
 * or at the time the file names; beside the voices, as a guide from the start of the part.
 */
export const importPlaces = ['parts', 'caret', 'track', 'time', 'guide'] as const;
export type ImportPlace = (typeof importPlaces)[number];

export interface PlaceChoices {
  place: ImportPlace;
  trackId: string | null;
  keepMarks: boolean;
}

/** All of one channel of an imported source. */
export const wholePiece = ({ id, frames }: Pick<SourceRecord, 'id' | 'frames'>, channel: number): Piece => ({
  kind: 'audio',
  source: id,
  channel,
  from: 0,
  length: frames,
  gainDb: 0,
});

const recordedOn = (source: SourceRecord, tracks: readonly string[]): Recorded =>
  new Map(tracks.map((track, channel) => [track, [wholePiece(source, channel)]]));

const noteMarks = ({ marks }: ImportedSound, at: number, keep: boolean): Mark[] =>
  keep
    ? marks.map((mark) => ({
        id: newId(),
        kind: 'note',
        at: at + mark.at,
        length: mark.length,
        name: mark.name,
      }))
    : [];

/**
 * A new part with the source in it, as a step that can be undone; two channels become a left and a right
 * track.
 */
export async function placeAsPart(
  source: SourceRecord,
  read: ImportedSound,
  { keepMarks }: PlaceChoices,
): Promise<void> {
  const id = await addPart(source.name, false);
  const part = partRecord(id);
  if (!id || !part) throw new ParolaError('storage-full', say`No part could be stored for it.`);
  const [{ id: first }] = loadTimeline(part.timeline).tracks;
  const tracks = source.channels === 2 ? [first, 'track-2'] : [first];
  try {
    await keepSource({ ...source, partId: id, take: 1 }, tracks);
  } catch (error) {
    await removePart(id);
    throw error;
  }
  editPart(id, 'import', (empty) => {
    const paired = source.channels === 2 ? withPair(empty, first, 'track-2') : empty;
    return addMarks(overlay(paired, recordedOn(source, tracks), 0), noteMarks(read, 0, keepMarks));
  });
  await selectPart(id);
}

/** A part's first track and one beside it as the two sides of a pair. */
function withPair(timeline: Timeline, first: string, second: string): Timeline {
  const two = addTrack(timeline, { id: second, name: say`Right` });
  return changeTrack(changeTrack(two, first, { name: say`Left`, side: 'left' }), second, { side: 'right' });
}

/** The source is whole and belongs to its tracks. */
async function keepSource(source: SourceRecord, tracks: readonly string[]): Promise<SourceRecord> {
  const kept: SourceRecord = { ...source, trackId: tracks[0], trackIds: [...tracks], state: 'kept' };
  await finishSource(source.id, kept);
  rememberSource(kept);
  return kept;
}

/**
 * Into the open part, as a step that can be undone. `time` is the sheet frame the file names; it counts only
 * for that place.
 */
export async function placeInOpenPart(
  source: SourceRecord,
  read: ImportedSound,
  time: number,
  { place, trackId, keepMarks }: PlaceChoices,
): Promise<void> {
  const { timeline, caret } = usePart.getState();
  if (place === 'caret' && isInStep(timeline))
    throw new ParolaError(
      'unsupported',
      say`The part is in step with its guide, and a gap would move its time. Import it over a track, or let go of step under Inputs and tracks.`,
    );
  const tracks = targetTracks(timeline, source.channels, trackId);
  const at = place === 'time' ? Math.max(0, time) : caret;
  const recorded = recordedOn(await keepSource(source, tracks), tracks);
  edit(
    say`import ${source.name}`,
    (before) => {
      const laid = place === 'caret' ? insertRecording(before, recorded, at) : overlay(before, recorded, at);
      return addMarks(laid, noteMarks(read, at, keepMarks));
    },
    { id: source.id, frames: source.frames },
  );
  // Several files follow one another.
  if (place !== 'time') setCaret(at + source.frames);
}

/** Something to hear while recording, from the start of the open part, which is in step with it then. */
export async function placeAsGuide(
  source: SourceRecord,
  read: ImportedSound,
  { keepMarks }: PlaceChoices,
  film: Film | null = null,
): Promise<void> {
  const id = `guide-${newId().slice(0, 8)}`;
  const { name, frames } = await keepSource({ ...source, take: 0, role: 'guide', ...(film && { film }) }, [
    id,
  ]);
  const pieces = [wholePiece(source, 0)];
  edit(
    say`guide ${name}`,
    (before) =>
      counted(addMarks(addGuide(before, { id, name, pieces }), noteMarks(read, 0, keepMarks)), film),
    { id: source.id, frames },
  );
  const { rate } = cueSheetOf(usePart.getState().timeline);
  if (film && !film.rate)
    notify(
      'warning',
      say`The pictures of “${film.fileName}” do not follow each other evenly. It is shown in step all the same; frames of timecode are those of the cue sheet.`,
      'cues',
    );
  else if (film?.rate && rates[rate].num * film.rate.den !== film.rate.num * rates[rate].den)
    notify(
      'warning',
      say`“${film.fileName}” has ${perSecond(film.rate)} pictures a second, and the cue sheet counts ${rate}.`,
      'cues',
    );
}

const perSecond = ({ num, den }: NonNullable<Film['rate']>) => String(Number((num / den).toFixed(3)));

/** Where there are no cues yet, they are counted as the film's pictures are. */
function counted(timeline: Timeline, film: Film | null): Timeline {
  const { cues, rate, start } = cueSheetOf(timeline);
  const own = film?.rate && tradeRate(film.rate.num / film.rate.den);
  const same = own && own.num * rates[rate].den === rates[rate].num * own.den;
  return own && !same && cues.length === 0 ? setCueTime(timeline, { rate: own.name, start }) : timeline;
}

/** The chosen track; for two sides, that one and the one below it. */
function targetTracks({ tracks }: Timeline, channels: number, trackId: string | null): string[] {
  const chosen = tracks.findIndex(({ id }) => id === trackId);
  const first = Math.max(0, Math.min(Math.max(0, chosen), tracks.length - channels));
  return tracks.slice(first, first + channels).map(({ id }) => id);
}

/** The time a file names, in frames of the project. */
export const timeOf = (found: FoundSound | null) =>
  found?.origin ? Math.round((found.origin.timeReference * rateOfProject()) / found.rateHz) : 0;

/**
 * A time of day lies far behind the end of any part: then the earliest file stands at the caret, and the
 * others in their distance from it.
 */
const farSeconds = 3600;

/** What is taken off every file's time. */
export function timeBase(files: readonly (FoundSound | null)[]): number {
  const earliest = Math.min(...files.filter((found) => found !== null).map(timeOf));
  const { timeline, caret } = usePart.getState();
  const far = sheetFramesOf(timeline) + farSeconds * rateOfProject();
  return Number.isFinite(earliest) && earliest > far ? earliest - caret : 0;
}
