import 'fake-indexeddb/auto';
import { blockFrames } from '@/core/base/audio';
import { findSpec } from '@/core/specs/builtIn';
import { appendRecording } from '@/core/timeline/takes';
import type { Piece } from '@/core/timeline/pieces';
import { heardFramesOf } from '@/core/timeline/timeline';
import { storeTimeline } from '@/core/timeline/stored';
import { createProject, loadProject, newPart, newProject } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import { BlockWriter } from '@/storage/blocks';
import { createSource } from '@/storage/sources';
import { edit, openPart, usePart } from '../sheet/part';
import { useNotices } from '../page/notices';
import { saved } from '../page/saving';
import { noProject, rememberSource, useProject } from '../project/openProject';

export const rate = 48_000;

/** A stored project with parts of these names, the first one open. */
export async function openFresh(...names: string[]) {
  const spec = findSpec('Dry voice');
  if (!spec) throw new Error('no spec');
  const project = newProject('Test', spec, rate);
  const parts = (names.length > 0 ? names : ['One']).map((name) => newPart(project.id, name));
  await createProject(project, parts);
  useProject.setState({
    ...noProject,
    status: 'open',
    project: { ...project, partIds: parts.map(({ id }) => id) },
    parts,
  });
  await openPart(parts[0]);
  return { project, parts, part: parts[0] };
}

export const audioPiece = (source: string, length: number): Piece => ({
  kind: 'audio',
  source,
  channel: 0,
  from: 0,
  length,
  gainDb: 0,
});

const takeOf = (id: string, frames: number, tracks: readonly string[]): SourceRecord => ({
  id,
  projectIds: [useProject.getState().project?.id ?? ''],
  partId: usePart.getState().id ?? '',
  trackId: tracks[0],
  trackIds: [...tracks],
  take: 1,
  name: 'Take 1',
  rateHz: rate,
  channels: tracks.length,
  state: 'kept',
  frames,
  handleFrames: 0,
  startedAt: 1,
  overrunFrames: 0,
  input: 'test',
});

/**
 * Puts a take at the end of the open part, on its first tracks; a source without audio is enough for most
 * edits.
 */
export function record(seconds: number, tracks: readonly string[] = ['track-1']): string {
  const source = crypto.randomUUID();
  rememberSource(takeOf(source, seconds * rate, tracks));
  edit('take 1', (timeline) =>
    appendRecording(timeline, new Map(tracks.map((track) => [track, [audioPiece(source, seconds * rate)]]))),
  );
  return source;
}

/**
 * Stores audio as a take, of as many channels as are given, and puts it at the end of the open part, on its
 * first tracks.
 */
export async function recordAudio(...channels: [Float32Array, ...Float32Array[]]): Promise<SourceRecord> {
  const frames = channels[0].length;
  const tracks = usePart.getState().timeline.tracks.slice(0, channels.length);
  const source = takeOf(
    crypto.randomUUID(),
    frames,
    tracks.map(({ id }) => id),
  );
  await createSource(source);
  const writer = new BlockWriter(source.id, channels.length);
  for (let at = 0; at < frames; at += blockFrames)
    await writer.write(channels.map((audio) => audio.slice(at, at + blockFrames)));
  await writer.close();
  rememberSource(source);
  edit('take 1', (timeline) =>
    appendRecording(
      timeline,
      new Map(
        tracks.map(({ id }, channel) => [id, [{ ...audioPiece(source.id, frames), channel } as Piece]]),
      ),
    ),
  );
  return source;
}

/** What the sheet and the storage hold; both must always be the same once everything is saved. */
export async function stored(projectId: string) {
  await saved();
  const { timeline, historyAt, id } = usePart.getState();
  const part = (await loadProject(projectId)).parts.find((candidate) => candidate.id === id);
  if (!part) throw new Error('the part is not stored');
  expect(part.timeline).toEqual(storeTimeline(timeline));
  expect(part.historyAt).toBe(historyAt);
  return part;
}

export const table = (track = 0) => usePart.getState().timeline.tracks[track].table;
export const struck = () => usePart.getState().timeline.struck;
export const heardFrames = () => heardFramesOf(usePart.getState().timeline);

export const messages = () => useNotices.getState().notices.map(({ text }) => text);

/** Waits until something is so, for a few seconds at most. */
export async function until(holds: () => boolean): Promise<void> {
  for (let turn = 0; turn < 400 && !holds(); turn++) await new Promise((resolve) => setTimeout(resolve, 10));
  if (!holds()) throw new Error(`It never came about: ${holds}`);
}
