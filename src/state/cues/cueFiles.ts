import { say } from '@/texts/say';
import { create } from 'zustand';
import { ParolaError, toParolaError } from '@/core/base/errors';
import { formatBytes } from '@/core/base/units';
import { captionsOf, readCaptions, type CaptionForm } from '@/core/cues/captions';
import { guessColumns, type ColumnMeaning, type TimeForm } from '@/core/cues/cueColumns';
import { cueCsv } from '@/core/cues/cueCsv';
import { guessStart, readCues, type ReadCues } from '@/core/cues/cueList';
import { largestTableBytes, readTable, textOf, type Table } from '@/core/cues/readTable';
import type { RateName } from '@/core/cues/timecode';
import { safeName } from '@/core/formats/fileNames';
import * as cueEdits from '@/core/timeline/cueEdits';
import { cueLimits, type Cue } from '@/core/timeline/cues';
import { newId } from '@/storage/projects';
import { handOverText } from '../page/jobs';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { isReadOnly, rateOfProject } from '../project/openProject';
import { edit, openPartRecord, usePart } from '../sheet/part';

/** A list that is being read: what its columns are taken for can be changed before any of it is taken. */
export interface ListInHand {
  readonly fileName: string;
  /** Null for captions, which need no columns. */
  readonly table: Table | null;
  readonly captions: ReadCues | null;
  readonly hasHeader: boolean;
  readonly meanings: readonly ColumnMeaning[];
  readonly times: TimeForm;
  readonly rate: RateName;
  readonly start: number;
  /** In place of the cues that are there, or with them. */
  readonly instead: boolean;
}

interface CueFiles {
  readonly list: ListInHand | null;
  /** Why a file could not be read. */
  readonly refusal: string | null;
}

const none: CueFiles = { list: null, refusal: null };

export const useCueFiles = create<CueFiles>(() => none);
whenProjectCloses(() => useCueFiles.setState(none));

export const dropList = () => useCueFiles.setState(none);

/** Opens a list of cues (CSV, WebVTT, SubRip) for a look at it; says why where it cannot be read. */
export async function openList(file: File): Promise<void> {
  if (isReadOnly()) return;
  try {
    if (file.size > largestTableBytes)
      throw new ParolaError(
        'too-large',
        say`“${file.name}” has ${formatBytes(file.size)}; a cue list has at most ${formatBytes(largestTableBytes)}. Is it the right file?`,
      );
    const text = textOf(new Uint8Array(await file.arrayBuffer()));
    useCueFiles.setState({ list: listOf(file.name, text), refusal: null });
  } catch (thrown) {
    useCueFiles.setState({ list: null, refusal: toParolaError(thrown).message });
  }
}

function listOf(fileName: string, text: string): ListInHand {
  const { rate, start, cues } = cueEdits.cueSheetOf(usePart.getState().timeline);
  const plain = {
    fileName,
    hasHeader: false,
    meanings: [],
    times: 'clock' as const,
    rate,
    start,
    instead: cues.length > 0,
  };
  const isCaptions = /\.(vtt|srt)$/i.test(fileName) || /^\uFEFF?WEBVTT/.test(text);
  if (isCaptions) return { ...plain, table: null, captions: readCaptions(text, rateOfProject()) };
  const table = readTable(text);
  const guess = guessColumns(table);
  const list = { ...plain, ...guess, table, captions: null };
  // Where there are cues already the picture's beginning is known.
  return cues.length > 0
    ? list
    : { ...list, start: guessStart(table, { ...guess, time: { rate, start: 0 } }) };
}

/** Changes what a list is taken for. The beginning is guessed anew with another way of counting. */
export function changeList(changes: Partial<ListInHand>): void {
  const { list } = useCueFiles.getState();
  if (!list) return;
  const next = { ...list, ...changes };
  const counted = changes.rate !== undefined || changes.meanings !== undefined || changes.times !== undefined;
  const start =
    next.table && counted && changes.start === undefined
      ? guessStart(next.table, { ...next, time: { rate: next.rate, start: 0 } })
      : next.start;
  useCueFiles.setState({ list: { ...next, start } });
}

/** Gives a column its meaning; whichever had it has none then. */
export function giveMeaning(column: number, meaning: ColumnMeaning): void {
  const { list } = useCueFiles.getState();
  if (!list) return;
  changeList({
    meanings: list.meanings.map((known, index) =>
      index === column ? meaning : known === meaning && meaning !== 'ignored' ? 'ignored' : known,
    ),
  });
}

/** What is in a list as it is taken now. */
export function readList(list: ListInHand): ReadCues {
  if (list.captions) return list.captions;
  if (!list.table) return { cues: [], faults: [] };
  const { rate, start } = list;
  return readCues(list.table, { ...list, time: { rate, start }, rateHz: rateOfProject() });
}

/** Takes the cues of the list that could be read: one step that can be undone. */
export function takeList(): void {
  const { list } = useCueFiles.getState();
  if (!list) return;
  const { cues } = readList(list);
  const there = cueEdits.cueSheetOf(usePart.getState().timeline).cues;
  if (!list.instead && there.length + cues.length > cueLimits.cues)
    return notify(
      'error',
      say`A part has at most ${cueLimits.cues} cues. Make another part for the rest.`,
      'cues',
    );
  edit(say`${cues.length} cues of ${list.fileName}`, (timeline) => {
    const bare = list.instead ? cueEdits.removeCues(timeline, new Set(there.map(({ id }) => id))) : timeline;
    const timed = list.table ? cueEdits.setCueTime(bare, list) : bare;
    const named = cueEdits.addCharacters(
      timed,
      cues.map(({ character }) => character),
      newId,
    );
    const sheet = cueEdits.cueSheetOf(named);
    const added = cues.map(({ character, ...cue }): Cue => {
      const known = cueEdits.characterNamed(sheet, character);
      return { ...cue, id: newId(), ...(known && { character: known.id }) };
    });
    return cueEdits.addCues(named, added);
  });
  dropList();
  notify('success', say`${cues.length} cues are on the cue sheet. Undo takes them away again.`);
}

/** Hands the cue sheet over as a file: CSV, WebVTT or SubRip. */
export function saveCues(form: 'csv' | CaptionForm): void {
  const sheet = cueEdits.cueSheetOf(usePart.getState().timeline);
  const names = new Map(sheet.characters.map(({ id, name }) => [id, name]));
  const rateHz = rateOfProject();
  const text =
    form === 'csv'
      ? cueCsv(sheet, rateHz)
      : captionsOf(sheet.cues, form, rateHz, ({ character = '' }) => names.get(character) ?? '');
  handOverText(`${safeName(openPartRecord()?.name ?? 'part')} cues.${form}`, text);
}
