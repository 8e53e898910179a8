import type { Finding, FindingOptions } from '@/core/speech/findings';
import type { Speech } from '@/core/speech/voiceActivity';
import type { PieceTable } from '@/core/timeline/pieces';
import type { Timeline } from '@/core/timeline/timeline';
import type { ReportProgress } from '@/workers/protocol';
import { findingClients } from './jobs';
import { rateOfProject, sourceList } from './session';
import { joinLengths } from './transport';

/** One job's share; small enough that two workers share a long part evenly, and its memory stays small. */
const segmentSeconds = 400;

export interface TrackFindings {
  trackId: string;
  table: PieceTable;
  /** In heard frames of the table, in order of time. */
  findings: Finding[];
  speech: Speech[];
}

/** Looks through all that is heard of a timeline, track by track, on both cores. Rejects with `cancelled` by the signal. */
export async function lookThrough(
  timeline: Timeline,
  options: FindingOptions,
  { signal, progress }: { signal: AbortSignal; progress: ReportProgress },
): Promise<TrackFindings[]> {
  const rateHz = rateOfProject();
  const segment = segmentSeconds * rateHz;
  const jobs = timeline.tracks.flatMap((track, index) =>
    Array.from({ length: Math.ceil(track.table.heardFrames / segment) }, (_, number) => ({
      track: index,
      from: number * segment,
      to: Math.min(track.table.heardFrames, (number + 1) * segment),
    })),
  );
  const done = new Float64Array(jobs.length);
  const results: { findings: Finding[]; speech: Speech[] }[] = [];
  let next = 0;
  const work = async (client: (typeof findingClients)[number]) => {
    for (let index = next++; index < jobs.length; index = next++) {
      const { track, from, to } = jobs[index];
      const { table } = timeline.tracks[track];
      const input = {
        pieces: table.pieces,
        sources: sourceList().map(({ id, frames }) => ({ id, frames })),
        rateHz,
        joins: joinLengths(),
        range: { from, to },
        marks: flubMarks(timeline, table),
        options,
      };
      const report = (share: number) => {
        done[index] = share;
        progress(done.reduce((sum, value) => sum + value) / jobs.length);
      };
      results[index] = await client.run('find', input, { signal, progress: report });
      report(1);
    }
  };
  await Promise.all(findingClients.map(work));
  return timeline.tracks.map(({ id, table }, track) => {
    const own = results.filter((_, index) => jobs[index].track === track);
    return {
      trackId: id,
      table,
      findings: own.flatMap(({ findings }) => findings),
      speech: own.flatMap(({ speech }) => speech),
    };
  });
}

/** Heard frames at which a flub is marked: at the mark, or in the middle of a marked range. */
const flubMarks = ({ marks }: Timeline, table: PieceTable) =>
  marks
    .filter(({ kind }) => kind === 'flub')
    .map(({ at, length }) => table.sheetToHeard(at + Math.floor(length / 2)));
