import { say } from '@/texts/say';
import { createSource, removeSource } from '@/storage/sources';
import type { ChannelChoice, ImportedSound } from '@/workers/importJobs';
import type { ReportProgress } from '@/workers/protocol';
import { importClient } from '../page/jobs';
import type { ProjectRecord, SourceRecord } from './openProject';

/** A source that a file is read into; it is `receiving` until it stands. */
export const receivingSource = (
  { id: projectId, rateHz }: Pick<ProjectRecord, 'id' | 'rateHz'>,
  file: File,
  channels: ChannelChoice,
  own: Pick<SourceRecord, 'id' | 'partId' | 'take' | 'name'>,
): SourceRecord => ({
  ...own,
  projectIds: [projectId],
  trackId: '',
  rateHz,
  channels: channels === 'both' ? 2 : 1,
  state: 'receiving',
  frames: 0,
  handleFrames: 0,
  startedAt: Date.now(),
  overrunFrames: 0,
  input: say`File “${file.name}”`,
});

export interface Received {
  source: SourceRecord;
  read: ImportedSound;
}

/**
 * Reads a file into a source, and hands it to `place`, which makes it stand. What fails or is cancelled
 * leaves nothing behind; it is thrown.
 */
export async function receiveFile(
  source: SourceRecord,
  file: File,
  channels: ChannelChoice,
  options: { signal: AbortSignal; progress: ReportProgress; silentSeconds?: number },
  place: (received: Received) => Promise<void>,
): Promise<Received> {
  try {
    await createSource(source);
    const { rateHz } = source;
    const { silentSeconds, ...running } = options;
    const wanted = { file, sourceId: source.id, rateHz, channels, ...(silentSeconds && { silentSeconds }) };
    const read = await importClient.run('read', wanted, running);
    const received = { source: { ...source, frames: read.frames, summary: read.summary }, read };
    await place(received);
    return received;
  } catch (thrown) {
    // What cannot be removed now goes when the project is opened again.
    await removeSource(source.id).catch(() => undefined);
    throw thrown;
  }
}

/** What of a file could not be read; null where all of it was. */
export function warningOf(name: string, { truncated, damaged, notNumbers }: ImportedSound): string | null {
  if (truncated) return say`“${name}” is cut short: what is whole of it is there.`;
  if (notNumbers > 0)
    return say`${notNumbers} samples of “${name}” are infinite or no numbers at all, and have become silence.`;
  return damaged
    ? say`“${name}” is damaged in places: what could not be decoded is silent or left out.`
    : null;
}
