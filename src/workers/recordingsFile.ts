import { say } from '@/texts/say';
import { BlobReader, TextReader, TextWriter, ZipReader, ZipWriter, type Entry } from '@zip.js/zip.js';
import { ParolaError, toParolaError } from '@/core/base/errors';
import {
  notOne,
  readRecordingsList,
  recordingFileName,
  recordingsListName,
  writeRecordingsList,
} from '@/core/far/recordingsFile';
import { readEntries } from '@/core/formats/projectArchive';
import { newId } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import { createSource, removeSource } from '@/storage/sources';
import type { ExportJobs, WrittenFile } from './exportJobs';
import type { ArrivedRecording } from './importJobs';
import type { JobContext } from './protocol';
import { wavStream } from './saveProjectFile';
import { ScratchFile } from './scratchFile';
import { WavSink } from './wavSink';

const plain = { level: 0, useWebWorkers: false } as const;
const mostListBytes = 20e6;

/** Writes recordings of a talent to one file, each as it stands on disk. Streams. */
export async function saveRecordings(
  { person, name, recordings, fileName }: ExportJobs['saveRecordings']['input'],
  context: JobContext,
): Promise<WrittenFile> {
  const target = await ScratchFile.create();
  try {
    const writer = new ZipWriter(
      new WritableStream<Uint8Array>({ write: (bytes) => target.write(bytes) }),
      plain,
    );
    const list = { person, name, recordings: recordings.map(({ recording }) => recording) };
    await writer.add(recordingsListName, new TextReader(writeRecordingsList(list)));
    const total = recordings.reduce((sum, { recording }) => sum + recording.frames, 0);
    let done = 0;
    for (const { id, recording } of recordings) {
      const advance = (frames: number) => context.progress((done += frames) / total);
      const stream = wavStream({ ...recording, id }, advance, context.signal);
      await writer.add(recordingFileName(recording.id), stream, { zip64: recording.frames * 4 > 4e9 });
    }
    await writer.close();
    const file = await target.close();
    return { path: target.path, fileName, bytes: file.size };
  } catch (error) {
    await target.discard();
    throw error;
  }
}

/**
 * Reads those recordings of a file that are of takes which are waited for, each into a source of its own.
 * What fails leaves nothing. Throws ParolaError `damaged-file`, `unsupported`, or `not-found` where nothing
 * is waited for.
 */
export async function openRecordings(
  { file, takes, projectId }: ExportJobs['openRecordings']['input'],
  context: JobContext,
): Promise<ExportJobs['openRecordings']['output']> {
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false, checkSignature: true });
  const read: ArrivedRecording[] = [];
  try {
    const entries = await readEntries(zip, file.size).catch(() => {
      throw notOne();
    });
    const entry = entries.get(recordingsListName);
    if (!entry || entry.directory || entry.uncompressedSize > mostListBytes) throw notOne();
    const list = readRecordingsList(await entry.getData(new TextWriter()));
    const wanted = list.recordings.filter(({ take, frames }) => takes.includes(take) && frames > 0);
    if (wanted.length === 0)
      throw new ParolaError(
        'not-found',
        say`Nothing in this file belongs to a take that is waited for in this project.`,
      );
    for (const recording of wanted) {
      const id = newId();
      const source = sourceOf(id, projectId, list.name, recording);
      await createSource(source);
      read.push({ id, recording: { ...recording, closed: true } });
      await readAudio(source, entries.get(recordingFileName(recording.id)), context);
    }
    return { person: list.person, name: list.name, read };
  } catch (thrown) {
    for (const { id } of read) await removeSource(id).catch(() => undefined);
    throw toParolaError(thrown);
  } finally {
    await zip.close();
  }
}

const sourceOf = (
  id: string,
  projectId: string,
  name: string,
  { rateHz, channels, frames }: ArrivedRecording['recording'],
): SourceRecord => ({
  id,
  projectIds: [projectId],
  partId: '',
  trackId: '',
  take: 0,
  name,
  rateHz,
  channels,
  state: 'importing',
  frames,
  handleFrames: 0,
  startedAt: Date.now(),
  overrunFrames: 0,
  input: name,
  role: 'far',
});

async function readAudio(source: SourceRecord, entry: Entry | undefined, { signal, progress }: JobContext) {
  if (!entry || entry.directory) throw notOne();
  let done = 0;
  const sink = new WavSink(entry.uncompressedSize, source, (frames) =>
    progress((done += frames) / source.frames),
  );
  const stream = new WritableStream<Uint8Array<ArrayBuffer>>({ write: (bytes) => sink.write(bytes) });
  const frames = await entry
    .getData(stream, { signal })
    .then(() => sink.close())
    .finally(() => sink.settled());
  if (frames !== source.frames) throw notOne();
}
