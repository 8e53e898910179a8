import 'fake-indexeddb/auto';
import { blockFrames } from '@/core/base/audio';
import { findSpec } from '@/core/specs/builtIn';
import { appendRecording } from '@/core/timeline/takes';
import type { Piece } from '@/core/timeline/pieces';
import { storeTimeline } from '@/core/timeline/timeline';
import { createProject, loadProject, newPart, newProject } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import { BlockWriter, createSource } from '@/storage/sources';
import { edit, openPart, usePart } from '../part';
import { saved } from '../saving';
import { closedSession, rememberSource, useSession } from '../session';

export const rate = 48_000;

/** A stored project with parts of these names, the first one open. */
export async function openFresh(...names: string[]) {
  const spec = findSpec('Dry voice');
  if (!spec) throw new Error('no spec');
  const project = newProject('Test', spec, rate);
  const parts = (names.length > 0 ? names : ['One']).map((name) => newPart(project.id, name));
  await createProject(project, parts);
  useSession.setState({
    ...closedSession,
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
  struck: false,
});

/** Puts a take at the end of the open part, on its first tracks; a source without audio is enough for most edits. */
export function record(seconds: number, tracks: readonly string[] = ['track-1']): string {
  const source = crypto.randomUUID();
  edit('take 1', (timeline) =>
    appendRecording(timeline, new Map(tracks.map((track) => [track, [audioPiece(source, seconds * rate)]]))),
  );
  return source;
}

/** Stores audio as a take and puts it at the end of the open part. */
export async function recordAudio(audio: Float32Array): Promise<SourceRecord> {
  const { id: partId } = usePart.getState();
  const source: SourceRecord = {
    id: crypto.randomUUID(),
    projectIds: [useSession.getState().project?.id ?? ''],
    partId: partId ?? '',
    trackId: 'track-1',
    take: 1,
    name: 'Take 1',
    rateHz: rate,
    channels: 1,
    state: 'kept',
    frames: audio.length,
    handleFrames: 0,
    startedAt: 1,
    overrunFrames: 0,
    input: 'test',
  };
  await createSource(source);
  const writer = new BlockWriter(source.id, 1);
  for (let at = 0; at < audio.length; at += blockFrames)
    await writer.write([audio.slice(at, at + blockFrames)]);
  await writer.close();
  rememberSource(source);
  edit('take 1', (timeline) =>
    appendRecording(timeline, new Map([['track-1', [audioPiece(source.id, audio.length)]]])),
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
