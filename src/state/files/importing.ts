import { language, say } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { safeName } from '@/core/formats/fileNames';
import { limits } from '@/core/formats/manifestLimits';
import { PieceTable } from '@/core/timeline/pieces';
import { newId } from '@/storage/projects';
import { storedFrames } from '@/storage/blocks';
import type { ChannelChoice, FoundSound } from '@/workers/importJobs';
import {
  placeAsGuide,
  placeAsPart,
  placeInOpenPart,
  timeBase,
  timeOf,
  wholePiece,
  type PlaceChoices,
} from './importPlacing';
import { importClient } from '../page/jobs';
import { notify } from '../page/notices';
import { ask } from '../page/questions';
import { usePart } from '../sheet/part';
import { endPlaying, playTracks } from '../hearing/playing';
import { nextTake } from '../recording/recordPlan';
import { isReadOnly, rateOfProject, useProject } from '../project/openProject';
import { receiveFile, receivingSource, warningOf } from '../project/receiving';
import { useTransport } from '../hearing/transport';

export type { ImportPlace } from './importPlacing';

export interface ImportFile {
  id: string;
  file: File;
  found: FoundSound | null;
  /** Why it cannot be imported, or what was wrong with it. */
  problem: string | null;
  /** 0 to 1 while it is read; 1 when it stands. */
  done: number | null;
  sourceId: string | null;
}

interface Importing extends PlaceChoices {
  open: boolean;
  files: readonly ImportFile[];
  channels: ChannelChoice;
  running: boolean;
}

const none: Importing = {
  open: false,
  files: [],
  place: 'parts',
  trackId: null,
  channels: 'mean',
  keepMarks: true,
  running: false,
};

export const useImporting = create<Importing>(() => none);
const set = useImporting.setState;

const soundEndings =
  /\.(wav|wave|bwf|rf64|aif|aiff|aifc|flac|mp3|m4a|mp4|aac|ogg|oga|opus|webm|weba|mka|mkv|mov|m4v)$/i;

/** What a file is is known after a moment, or not at all. */
const mostLookMs = 15_000;
const tooLong = say`What this file holds could not be found out within 15 seconds; it is probably damaged. Export it again from where it came from, as WAV or FLAC.`;

/** A file that may be sound, by what the system or its name says. */
export const maybeSound = ({ name, type }: File) => /^(audio|video)\//.test(type) || soundEndings.test(name);

const changeFile = (id: string, changes: Partial<ImportFile>) =>
  set(({ files }) => ({ files: files.map((file) => (file.id === id ? { ...file, ...changes } : file)) }));

/** Takes files in for import and looks at each; nothing is changed yet. */
export async function offerFiles(files: readonly File[]): Promise<void> {
  if (isReadOnly() || useTransport.getState().mode === 'recording' || files.length === 0) return;
  if (useImporting.getState().running) return;
  const offered: ImportFile[] = files.map((file) => ({
    id: newId(),
    file,
    found: null,
    problem: null,
    done: null,
    sourceId: null,
  }));
  const { parts } = useProject.getState();
  set((before) => ({
    ...(before.open ? before : { ...none, place: before.place }),
    open: true,
    files: [...(before.open ? before.files : []), ...offered],
    ...(parts.length === 0 && { place: 'parts' as const }),
  }));
  for (const { id, file } of offered) {
    try {
      changeFile(id, { found: await importClient.run('look', { file }, { limitMs: mostLookMs }) });
    } catch (thrown) {
      const { code, message } = toParolaError(thrown);
      changeFile(id, { problem: code === 'no-answer' ? tooLong : message });
    }
  }
  const { files: looked } = useImporting.getState();
  if (usePart.getState().id && looked.some(({ found }) => found?.picture)) set({ place: 'guide' });
  const stereo = useImporting.getState().files.some(({ found }) => found && found.channels > 1);
  if (!stereo) set({ channels: 'mean' });
}

export const openImport = () => {
  if (!isReadOnly()) set({ ...none, open: true });
};

export function closeImport(): void {
  controller?.abort();
  set(none);
}

export const dropFile = (id: string) =>
  set(({ files }) => ({ files: files.filter((file) => file.id !== id) }));

let controller: AbortController | null = null;

/**
 * Imports every file that can be, one after another. What was cancelled leaves nothing; what stands can be
 * undone.
 */
export async function runImport(): Promise<void> {
  const { running, files } = useImporting.getState();
  const { project } = useProject.getState();
  if (running || !project) return;
  const mine = (controller = new AbortController());
  set({ running: true });
  const outcomes: Outcome[] = [];
  try {
    const base = timeBase(files.map(({ found }) => found));
    for (const item of files) {
      if (!item.found || item.done === 1) continue;
      const time = await timeFor(item, base);
      if (time === null) continue;
      outcomes.push(await importOne(item, time, mine.signal));
    }
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    if (code !== 'cancelled') notify('error', message, 'projects');
  } finally {
    if (controller === mine) {
      controller = null;
      set({ running: false });
    }
  }
  if (mine.signal.aborted) return;
  const failed = useImporting.getState().files.filter(({ problem }) => problem);
  if (failed.length === 0) set(none);
  tellOutcomes(outcomes);
}

/**
 * Where a file goes by its own time, in sheet frames; null when the user leaves it out. A sheet that long
 * nobody could use: it is asked about.
 */
async function timeFor({ file, found }: ImportFile, base: number): Promise<number | null> {
  const { place } = useImporting.getState();
  const time = timeOf(found) - base;
  const most = limits.hours * 3600 * rateOfProject();
  if (place !== 'time' || time <= most) return time;
  const hours = Math.round(time / 3600 / rateOfProject()).toLocaleString(language);
  const answer = await ask({
    title: say`A place beyond ${limits.hours} hours`,
    text: say`“${file.name}” says that it belongs ${hours} hours into the part. Its time is probably damaged.`,
    choices: [
      { id: 'caret', label: say`Put it at the caret` },
      { id: 'leave', label: say`Leave it out` },
    ],
  });
  return answer === 'caret' ? usePart.getState().caret : null;
}

/** What became of one file: whether it stands in the project, and what is to be said of it. */
interface Outcome {
  stands: boolean;
  told: string | null;
}

/** Says what stands, and of what does not, why. */
function tellOutcomes(outcomes: readonly Outcome[]): void {
  if (outcomes.length === 0) return;
  const standing = outcomes.filter(({ stands }) => stands).length;
  const told = outcomes.flatMap((outcome) => outcome.told ?? []);
  const counted =
    standing === 0
      ? say`Nothing is imported.`
      : standing < outcomes.length
        ? say`${standing} of ${outcomes.length} files are imported.`
        : say`${standing === 1 ? say`1 file is` : say`${standing} files are`} imported.`;
  const severity = standing === 0 ? 'error' : told.length > 0 ? 'warning' : 'success';
  notify(severity, [counted, ...told].join(' '));
}

/** Reads one file and puts it where it goes. Throws `cancelled` only; then nothing of it is left. */
async function importOne(item: ImportFile, time: number, signal: AbortSignal): Promise<Outcome> {
  const { project } = useProject.getState();
  const { place, channels: chosen } = useImporting.getState();
  const { picture = null, channels: sides = 0 } = item.found ?? {};
  if (item.found && sides === 0 && place !== 'guide') {
    const problem = say`It has a picture but no sound: it can only be put beside the voices of a part, as their picture.`;
    changeFile(item.id, { problem });
    return { stands: false, told: say`“${item.file.name}” is not: ${problem}` };
  }
  // A guide is one stave.
  const channels = place === 'guide' && chosen === 'both' ? 'mean' : chosen;
  if (!project || !item.found) return { stands: false, told: null };
  const name = baseName(item.file.name);
  const partId = place === 'parts' ? null : usePart.getState().id;
  const source = receivingSource(project, item.file, channels, {
    id: newId(),
    partId: partId ?? '',
    take: partId ? nextTake(partId) : 1,
    name,
  });
  changeFile(item.id, { done: 0, sourceId: source.id, problem: null });
  try {
    const options = {
      signal,
      progress: (done: number) => changeFile(item.id, { done }),
      ...(sides === 0 && picture && { silentSeconds: picture.seconds }),
    };
    const { read } = await receiveFile(source, item.file, channels, options, async (received) => {
      const choices = useImporting.getState();
      await (place === 'parts'
        ? placeAsPart(received.source, received.read, choices)
        : place === 'guide'
          ? placeAsGuide(
              received.source,
              received.read,
              choices,
              picture?.shown === true ? await keepFilm(source.id, item.file, options) : null,
            )
          : placeInOpenPart(received.source, received.read, time, choices));
    });
    changeFile(item.id, { done: 1 });
    const unseen =
      place === 'guide' && picture && picture.shown !== true
        ? say`The picture of “${item.file.name}” (${picture.shown}) cannot be shown by this browser; MP4 with H.264 and WebM can. Its sound is the guide.`
        : null;
    return { stands: true, told: warningOf(item.file.name, read) ?? unseen };
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    changeFile(item.id, { done: null, sourceId: null, problem: message });
    if (code === 'cancelled') throw thrown;
    return { stands: false, told: say`“${item.file.name}” is not: ${message}` };
  }
}

const keepFilm = (
  sourceId: string,
  file: File,
  options: { signal: AbortSignal; progress: (done: number) => void },
) => importClient.run('film', { file, sourceId }, options);

const baseName = (fileName: string) => fileName.replace(/\.[^.]+$/, '').trim() || safeName(fileName);

/** Listens to what has come of a file so far. */
export async function listenTo(item: ImportFile): Promise<void> {
  if (!item.sourceId) return;
  const frames = await storedFrames(item.sourceId);
  const { channels } = useImporting.getState();
  if (frames === 0) return notify('info', say`Nothing of it has come yet.`);
  const whole = { id: item.sourceId, frames };
  const tracks = Array.from({ length: channels === 'both' ? 2 : 1 }, (_, channel) => ({
    table: PieceTable.of([wholePiece(whole, channel)]),
    ...(channels === 'both' && { side: channel === 0 ? ('left' as const) : ('right' as const) }),
  }));
  await playTracks(tracks, { from: 0, to: frames });
}

export const stopListening = () => endPlaying();
