import { decimal, say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { addMarks } from '@/core/timeline/edits';
import type { Finding } from '@/core/recording/levelWatch';
import { placeRecording, type Placement } from '@/core/timeline/takes';
import type { Mark } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import { recordedOf } from '@/storage/sources';
import type { TakeResult } from '@/workers/recorderProtocol';
import type { LiveTake } from '../hearing/liveTake';
import { notify } from '../page/notices';
import { editPart, timelineOfPart } from '../sheet/part';
import { abandonedEnd } from '../sheet/sentenceSteps';
import { rememberSource } from '../project/openProject';

interface EndedTake {
  live: LiveTake;
  source: Omit<SourceRecord, 'frames' | 'handleFrames'>;
  placement: Placement;
  handleFrames: number;
  take: TakeResult;
}

/** Two microphones hear one clap at nearly the same time. */
const sameClapSeconds = 0.05;

/**
 * Puts a finished take into its part, open or not, with the marks the recorder found, as one step. Its audio
 * is on disk already.
 */
export async function placeTake({ live, source, placement, take }: EndedTake): Promise<void> {
  const timeline = timelineOfPart(source.partId);
  if (!timeline)
    throw new ParolaError('not-found', say`The part of take ${source.take} is not there any more.`);
  const { frames, handleFrames, length, overrunFrames, summary } = take;
  const abandonedTo =
    placement.mode === 'retake'
      ? await abandonedEnd(timeline, new Set(source.trackIds ?? [source.trackId]), placement.at + length)
      : 0;
  const record: SourceRecord = { ...source, state: 'kept', frames, handleFrames, overrunFrames, summary };
  rememberSource(record);
  const recorded = recordedOf(record, length);
  const found = foundMarks(live, length, source.rateHz, newId);
  editPart(
    source.partId,
    say`take ${source.take}`,
    (before) =>
      addMarks(placeRecording(before, recorded, placement, { keptMarks: live.markIds, abandonedTo }), found),
    { id: source.id, frames, overrunFrames, summary },
  );
  if (overrunFrames > 0) {
    const lost = decimal(overrunFrames / source.rateHz, 2);
    notify(
      'warning',
      say`Storage could not keep up: ${lost} s of take ${source.take} were lost. Check the disk before you go on.`,
      'booth',
    );
  }
}

/** Claps become flub marks, clipped and faint passages marks of their own; `idOf` names them. */
export function foundMarks(
  live: LiveTake,
  length: number,
  rateHz: number,
  idOf: (index: number) => string,
): Mark[] {
  const names = { clap: say`Clap`, clipped: say`Clipped`, faint: say`Too faint` } as const;
  const findings = live.findings
    .filter(({ at }) => at < length)
    .sort((a, b) => a.at - b.at)
    .filter((finding, index, all) => !repeats(finding, all[index - 1], rateHz));
  return findings.map(({ kind, at, length: frames }, index) => ({
    id: idOf(index),
    kind: kind === 'clap' ? 'flub' : kind,
    at: live.startFrame + at,
    length: Math.min(frames, length - at),
    name: names[kind],
  }));
}

const repeats = (finding: Finding, before: Finding | undefined, rateHz: number) =>
  before?.kind === 'clap' && finding.kind === 'clap' && finding.at - before.at < sameClapSeconds * rateHz;
