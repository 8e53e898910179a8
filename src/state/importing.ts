import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { safeName } from '@/core/formats/fileNames';
import { addMarks } from '@/core/timeline/edits';
import { difference } from '@/core/timeline/history';
import type { Piece } from '@/core/timeline/pieces';
import { insertRecording, overlay, type Recorded } from '@/core/timeline/takes';
import { addTrack, changeTrack } from '@/core/timeline/tracks';
import {
  heardFramesOf,
  loadTimeline,
  sheetFramesOf,
  storeTimeline,
  type Mark,
  type Timeline,
} from '@/core/timeline/timeline';
import { PieceTable } from '@/core/timeline/pieces';
import { saveStep } from '@/storage/parts';
import { newId } from '@/storage/projects';
import { createSource, finishSource, removeSource, storedFrames } from '@/storage/sources';
import type { ChannelChoice, FoundSound, ImportedSound } from '@/workers/importJobs';
import { importClient } from './jobs';
import { notify } from './notices';
import { edit, setCaret, usePart } from './part';
import { endPlaying, playTracks } from './playing';
import { addPart, selectPart } from './projectActions';
import { nextTake } from './recordPlan';
import { save, saved } from './saving';
import {
  isReadOnly,
  rateOfProject,
  rememberPart,
  rememberSource,
  useSession,
  type SourceRecord,
} from './session';
import { useTransport } from './transport';

/** Where imported files go: each a part of its own; into a gap at the caret; over one track from the caret on, or at the time the file names. */
export const importPlaces = ['parts', 'caret', 'track', 'time'] as const;
export type ImportPlace = (typeof importPlaces)[number];

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

interface Importing {
  open: boolean;
  files: readonly ImportFile[];
  place: ImportPlace;
  trackId: string | null;
  channels: ChannelChoice;
  keepMarks: boolean;
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

const soundEndings = /\.(wav|wave|bwf|rf64|aif|aiff|aifc|flac|mp3|m4a|mp4|aac|ogg|oga|opus|webm|weba|mka)$/i;

/** A file that may be sound, by what the system or its name says. */
export const maybeSound = ({ name, type }: File) => type.startsWith('audio/') || soundEndings.test(name);

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
  const { parts } = useSession.getState();
  set((before) => ({
    ...(before.open ? before : { ...none, place: before.place }),
    open: true,
    files: [...(before.open ? before.files : []), ...offered],
    ...(parts.length === 0 && { place: 'parts' as const }),
  }));
  for (const { id, file } of offered) {
    try {
      changeFile(id, { found: await importClient.run('look', { file }) });
    } catch (thrown) {
      changeFile(id, { problem: toParolaError(thrown).message });
    }
  }
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

/** Imports every file that can be, one after another. What was cancelled leaves nothing; what stands can be undone. */
export async function runImport(): Promise<void> {
  const { running, files } = useImporting.getState();
  const { project } = useSession.getState();
  if (running || !project) return;
  const mine = (controller = new AbortController());
  set({ running: true });
  let imported = 0;
  const warnings: string[] = [];
  try {
    const base = timeBase(files);
    for (const item of files) {
      if (!item.found || item.done === 1) continue;
      const warning = await importOne(item, base, mine.signal);
      imported++;
      if (warning) warnings.push(warning);
    }
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    if (code !== 'cancelled') notify('error', message);
  } finally {
    if (controller === mine) {
      controller = null;
      set({ running: false });
    }
  }
  if (mine.signal.aborted) return;
  const failed = useImporting.getState().files.filter(({ problem }) => problem);
  if (failed.length === 0) set(none);
  if (imported > 0)
    notify(
      warnings.length > 0 ? 'warning' : 'success',
      [`${imported === 1 ? '1 file is' : `${imported} files are`} imported.`, ...warnings].join(' '),
    );
}

/** Reads one file and puts it where it goes. Returns what was wrong with it, if anything. */
async function importOne(item: ImportFile, base: number, signal: AbortSignal): Promise<string | null> {
  const { project } = useSession.getState();
  const { place, channels } = useImporting.getState();
  if (!project || !item.found) return null;
  const name = baseName(item.file.name);
  const partId = place === 'parts' ? null : usePart.getState().id;
  const source: SourceRecord = {
    id: newId(),
    projectIds: [project.id],
    partId: partId ?? '',
    trackId: '',
    take: partId ? nextTake(partId) : 1,
    name,
    rateHz: project.rateHz,
    channels: channels === 'both' ? 2 : 1,
    state: 'receiving',
    frames: 0,
    handleFrames: 0,
    startedAt: Date.now(),
    overrunFrames: 0,
    input: `File “${item.file.name}”`,
  };
  await createSource(source);
  changeFile(item.id, { done: 0, sourceId: source.id, problem: null });
  try {
    const read = await importClient.run(
      'read',
      { file: item.file, sourceId: source.id, rateHz: project.rateHz, channels },
      { signal, progress: (done) => changeFile(item.id, { done }) },
    );
    const received = { ...source, frames: read.frames, summary: read.summary };
    await (place === 'parts' ? asNewPart(received, read) : ontoOpenPart(received, read, item, base));
    changeFile(item.id, { done: 1 });
    return warningOf(item.file.name, read);
  } catch (thrown) {
    await removeSource(source.id);
    changeFile(item.id, { done: null, sourceId: null, problem: toParolaError(thrown).message });
    if (toParolaError(thrown).code === 'cancelled') throw thrown;
    return null;
  }
}

function warningOf(name: string, { truncated, damaged }: ImportedSound): string | null {
  if (truncated) return `“${name}” is cut short: what is whole of it is there.`;
  return damaged ? `“${name}” is damaged in places: they are silent now.` : null;
}

const baseName = (fileName: string) => fileName.replace(/\.[^.]+$/, '').trim() || safeName(fileName);

const pieceOf = ({ id, frames }: SourceRecord, channel: number): Piece => ({
  kind: 'audio',
  source: id,
  channel,
  from: 0,
  length: frames,
  gainDb: 0,
  struck: false,
});

const recordedOn = (source: SourceRecord, tracks: readonly string[]): Recorded =>
  new Map(tracks.map((track, channel) => [track, [pieceOf(source, channel)]]));

function noteMarks({ marks }: ImportedSound, at: number): Mark[] {
  if (!useImporting.getState().keepMarks) return [];
  return marks.map((mark) => ({
    id: newId(),
    kind: 'note',
    at: at + mark.at,
    length: mark.length,
    name: mark.name,
  }));
}

async function asNewPart(source: SourceRecord, read: ImportedSound): Promise<void> {
  const id = await addPart(source.name, false);
  const part = useSession.getState().parts.find((candidate) => candidate.id === id);
  if (!id || !part) return;
  const empty = loadTimeline(part.timeline);
  const [{ id: first }] = empty.tracks;
  const paired = source.channels === 2 ? withPair(empty, first, 'track-2') : empty;
  const tracks = paired.tracks.map((track) => track.id);
  const laid = addMarks(overlay(paired, recordedOn(source, tracks), 0), noteMarks(read, 0));
  const placed: SourceRecord = {
    ...source,
    partId: id,
    trackId: tracks[0],
    trackIds: tracks,
    take: 1,
    state: 'kept',
  };
  await finishSource(source.id, placed);
  rememberSource(placed);
  const step = { label: 'import', difference: difference(empty, laid) };
  rememberPart(id, { timeline: storeTimeline(laid), heardFrames: heardFramesOf(laid), historyAt: 1 });
  await save(() => saveStep(id, laid, 0, step));
  await saved();
  await selectPart(id);
}

/** A part's first track and one beside it as the two sides of a pair. */
function withPair(timeline: Timeline, first: string, second: string): Timeline {
  const two = addTrack(timeline, { id: second, name: 'Right' });
  return changeTrack(changeTrack(two, first, { name: 'Left', side: 'left' }), second, { side: 'right' });
}

async function ontoOpenPart(
  source: SourceRecord,
  read: ImportedSound,
  item: ImportFile,
  base: number,
): Promise<void> {
  const { place } = useImporting.getState();
  const { timeline, caret } = usePart.getState();
  const tracks = targetTracks(timeline, source.channels);
  const at = place === 'time' ? Math.max(0, timeOf(item) - base) : caret;
  const placed: SourceRecord = { ...source, trackId: tracks[0], trackIds: tracks, state: 'kept' };
  await finishSource(source.id, placed);
  rememberSource(placed);
  const recorded = recordedOn(placed, tracks);
  edit(
    `import ${source.name}`,
    (before) => {
      const laid = place === 'caret' ? insertRecording(before, recorded, at) : overlay(before, recorded, at);
      return addMarks(laid, noteMarks(read, at));
    },
    { id: source.id, frames: source.frames },
  );
  // Several files follow one another.
  if (place !== 'time') setCaret(at + source.frames);
}

/** The chosen track; for two sides, that one and the one below it. */
function targetTracks({ tracks }: Timeline, channels: number): string[] {
  const { trackId } = useImporting.getState();
  const index = Math.max(
    0,
    tracks.findIndex(({ id }) => id === trackId),
  );
  const first = Math.min(index, tracks.length - channels);
  return tracks.slice(Math.max(0, first), Math.max(0, first) + channels).map(({ id }) => id);
}

/** The time a file names, in frames of the project. */
const timeOf = ({ found }: ImportFile) =>
  found?.origin ? Math.round((found.origin.timeReference * rateOfProject()) / found.rateHz) : 0;

/** A time of day lies far behind the end of any part: then the earliest file stands at the caret, and the others in their distance from it. */
const farSeconds = 3600;

/** What is taken off every file's time. */
function timeBase(files: readonly ImportFile[]): number {
  const times = files.filter(({ found }) => found).map(timeOf);
  const earliest = Math.min(...times);
  const { timeline, caret } = usePart.getState();
  const far = sheetFramesOf(timeline) + farSeconds * rateOfProject();
  return Number.isFinite(earliest) && earliest > far ? earliest - caret : 0;
}

/** Listens to what has come of a file so far. */
export async function listenTo(item: ImportFile): Promise<void> {
  if (!item.sourceId) return;
  const frames = await storedFrames(item.sourceId);
  const { channels } = useImporting.getState();
  if (frames === 0) return notify('info', 'Nothing of it has come yet.');
  const whole = { id: item.sourceId, frames } as SourceRecord;
  const tracks = Array.from({ length: channels === 'both' ? 2 : 1 }, (_, channel) => ({
    table: PieceTable.of([pieceOf(whole, channel)]),
    ...(channels === 'both' && { side: channel === 0 ? ('left' as const) : ('right' as const) }),
  }));
  await playTracks(tracks, { from: 0, to: frames });
}

export const stopListening = () => endPlaying();
