import { outsideRestarts, pauseFindings, type Finding, type FindingOptions } from '@/core/speech/findings';
import { ownSpeech, together, type VoicedSpeech } from '@/core/speech/severalVoices';
import type { Speech } from '@/core/speech/voiceActivity';
import { heardTracks } from '@/core/timeline/heard';
import { soundingOfTracks } from '@/core/timeline/sounding';
import type { Range } from '@/core/timeline/range';
import { clockOf, heardFramesOf, type Timeline } from '@/core/timeline/timeline';
import type { Found } from '@/workers/analysisJobs';
import type { ReportProgress } from '@/workers/protocol';
import { findingClients } from '../page/jobs';
import { rateOfProject, soundingSettings, sourceLengths } from '../project/openProject';

/** One job's share; small enough that two workers share a long part evenly, and its memory stays small. */
const segmentSeconds = 400;

/** What was found on one track; in heard frames, in order of time. */
export interface TrackFindings {
  trackId: string;
  findings: Finding[];
  /** What its own voice says, without the neighbours' in its microphone. */
  speech: VoicedSpeech[];
}

export interface PartFindings {
  tracks: TrackFindings[];
  /** Pauses in which nobody speaks on any track. */
  pauses: Finding[];
  /** Where anybody speaks. */
  speech: Speech[];
}

/**
 * Looks through all that is heard of a timeline, or a heard range of it, track by track, on both cores;
 * pauses are those of all tracks together. Rejects with `cancelled` by the signal.
 */
export async function lookThrough(
  timeline: Timeline,
  options: FindingOptions,
  { signal, progress }: { signal: AbortSignal; progress: ReportProgress },
  range: Range = { from: 0, to: heardFramesOf(timeline) },
): Promise<PartFindings> {
  const rateHz = rateOfProject();
  const heard = heardTracks(timeline);
  const segment = segmentSeconds * rateHz;
  const ofOneTrack = { ...options, kinds: options.kinds.filter((kind) => !ofAllTracks.has(kind)) };
  const jobs = heard.flatMap(({ table }, track) =>
    Array.from({ length: Math.ceil((range.to - range.from) / segment) }, (_, number) => ({
      track,
      range: {
        from: range.from + number * segment,
        to: Math.min(range.to, range.from + (number + 1) * segment),
      },
      sounding: soundingOfTracks([{ table }], soundingSettings()),
    })),
  );
  const done = new Float64Array(jobs.length);
  const results: Found[] = [];
  let next = 0;
  const work = async (client: (typeof findingClients)[number]) => {
    for (let index = next++; index < jobs.length; index = next++) {
      const { sounding, range: stretch } = jobs[index];
      const input = {
        sounding,
        sources: sourceLengths(),
        range: stretch,
        marks: flubMarks(timeline),
        options: ofOneTrack,
      };
      const report = (share: number) => {
        done[index] = share;
        progress(done.reduce((sum, value) => sum + value) / jobs.length);
      };
      try {
        results[index] = await client.run('find', input, { signal, progress: report });
      } finally {
        client.release();
      }
      report(1);
    }
  };
  await Promise.all(findingClients.map(work));
  const found = timeline.tracks.map((_, track) => results.filter((__, index) => jobs[index].track === track));
  const own = ownSpeech(found.map((parts) => parts.flatMap(({ speech }) => speech)));
  const speech = together(own);
  const findings = found.map((parts) => parts.flatMap((part) => part.findings));
  return {
    tracks: timeline.tracks.map(({ id }, track) => ({
      trackId: id,
      findings: findings[track],
      speech: own[track],
    })),
    pauses: outsideRestarts(pauseFindings(speech, options, rateHz), findings.flat()),
    speech,
  };
}

/** These are about time, which all tracks share. */
const ofAllTracks: ReadonlySet<string> = new Set(['longPause', 'shortPause']);

/** Heard frames at which a flub is marked: at the mark, or in the middle of a marked range. */
const flubMarks = (timeline: Timeline) =>
  timeline.marks
    .filter(({ kind }) => kind === 'flub')
    .map(({ at, length }) => clockOf(timeline).sheetToHeard(at + Math.floor(length / 2)));
