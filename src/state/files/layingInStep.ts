import { decimal, say } from '@/texts/say';
import { ratesOfClocks, type Alignment } from '@/core/dsp/alignment';
import { layInStep, loneRecording, type LoneRecording } from '@/core/timeline/layInStep';
import { peakFrames } from '@/core/timeline/peaks';
import { PieceTable } from '@/core/timeline/pieces';
import type { Track } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import { createSource, finishSource, removeSource } from '@/storage/sources';
import { levelsOf } from '../finds/tableLevels';
import { analysisClient, importClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { ask } from '../page/questions';
import { isReadOnly, rateOfProject, rememberSource, useProject } from '../project/openProject';
import { edit, refusedInStep, usePart } from '../sheet/part';
import { focusedTracks } from '../sheet/staveFocus';
import { nextTake } from '../recording/recordPlan';
import { wholePiece } from './importPlacing';

interface Pair {
  first: LoneRecording;
  second: LoneRecording;
  track: Track;
  names: [string, string];
}

const notAlone = (name: string) =>
  say`“${name}” is no single recording any more. Recordings are laid in step before they are cut: undo, or import it again.`;

/** The first track and the focused one, else the second; told where they cannot be laid in step. */
function pairOf(): Pair | null {
  const { timeline } = usePart.getState();
  const { tracks, struck } = timeline;
  const only = focusedTracks();
  const track = tracks.find(({ id }, index) => index > 0 && (only === null || only.has(id))) ?? tracks[1];
  const refuse = (text: string) => {
    notify('info', text);
    return null;
  };
  if (!track)
    return refuse(say`Two recordings on two tracks are laid in step: import each over a track of its own.`);
  const [first, second] = [loneRecording(tracks[0].table), loneRecording(track.table)];
  if (!first || struck.length > 0) return refuse(notAlone(tracks[0].name));
  if (!second) return refuse(notAlone(track.name));
  if (first.piece.source === second.piece.source)
    return refuse(say`Both tracks are sides of one recording: they are in step already.`);
  return { first, second, track, names: [tracks[0].name, track.name] };
}

const framesOf = ({ piece }: LoneRecording) => useProject.getState().sources.get(piece.source)?.frames ?? 0;

async function levels(recording: LoneRecording): Promise<Float32Array<ArrayBuffer>> {
  const { source: id, channel } = recording.piece;
  const frames = framesOf(recording);
  return levelsOf(PieceTable.of([wholePiece({ id, frames }, channel)]), frames);
}

const compare = ({ first, second }: Pair): Promise<Alignment | null | 'failed'> =>
  runShown(say`Comparing the recordings`, async (options) => {
    const recorded = (one: LoneRecording) => ({
      source: one.piece.source,
      channel: one.piece.channel,
      frames: framesOf(one),
    });
    const input = {
      recordings: [recorded(first), recorded(second)] as const,
      levels: [await levels(first), await levels(second)] as const,
      stepSeconds: peakFrames / rateOfProject(),
      rateHz: rateOfProject(),
    };
    return { found: await analysisClient.run('align', input, options) };
  }).then((result) => (result === null ? 'failed' : result.found));

/** Less than this over the whole recording is not worth converting it. */
const leastDriftSeconds = 0.0002;

function describe(
  { names: [first, second], ...pair }: Pair,
  { ppm, spreadMs, moments, ...found }: Alignment,
): string {
  const apart = ((pair.first.origin - pair.second.origin) / rateOfProject() - found.offsetSeconds) * 1000;
  const place = say`${second} moves ${decimal(Math.abs(apart), 0)} ms ${apart > 0 ? say`later` : say`earlier`}`;
  const drift = (framesOf(pair.second) / rateOfProject()) * Math.abs(ppm) * 1e-3;
  const clock =
    drift < 1000 * leastDriftSeconds
      ? say`Their clocks agree.`
      : say`Its clock is ${decimal(Math.abs(ppm), 1)} ppm ${ppm > 0 ? say`slower` : say`faster`} than that of ${first}, ${decimal(drift, 0)} ms over all of it; it is converted, and the original kept.`;
  return say`${place}. ${clock} Found at ${moments} moments, half of them within ${decimal(spreadMs, 2)} ms.`;
}

/**
 * Lays the recording of the second track, or of the focused one, in step with that of the first: measured,
 * shown, then one step. A clock that differs is converted into a recording of its own.
 */
export async function layRecordingsInStep(): Promise<void> {
  if (isReadOnly()) return;
  const pair = pairOf();
  const { id: partId } = usePart.getState();
  if (!pair || !partId || refusedInStep()) return;
  const found = await compare(pair);
  if (found === 'failed') return;
  if (!found)
    return notify(
      'info',
      say`Nothing of “${pair.names[0]}” is heard on “${pair.names[1]}”, so that they cannot be laid in step by what both hear. Lay a clap or a first word over each other by hand.`,
    );
  const answer = await ask({
    title: say`Lay in step`,
    text: describe(pair, found),
    choices: [
      { id: 'lay', label: say`Lay it in step` },
      { id: 'leave', label: say`Leave it` },
    ],
  });
  if (answer !== 'lay' || usePart.getState().id !== partId) return;
  const made = await converted(pair, found, partId);
  if (!made || usePart.getState().id !== partId) return;
  edit(say`lay in step`, (before) =>
    layInStep(before, pair.first, pair.track.id, made, { ...found, ppm: made.ppm }, rateOfProject()),
  );
}

/** The second recording on the clock of the first; itself where they agree. Null when it was cancelled. */
async function converted({ second, track, names }: Pair, { ppm }: Alignment, partId: string) {
  const { source: id, channel } = second.piece;
  const original = useProject.getState().sources.get(id);
  const { project } = useProject.getState();
  if (!original || !project) return null;
  const rateHz = rateOfProject();
  const drift = (original.frames / rateHz) * Math.abs(ppm) * 1e-6;
  if (drift < leastDriftSeconds) return { source: id, channel, frames: original.frames, ppm: 0 };
  const source = {
    ...original,
    id: newId(),
    projectIds: [project.id],
    partId,
    trackId: track.id,
    trackIds: [track.id],
    take: nextTake(partId),
    name: say`${original.name}, in step`,
    channels: 1,
    state: 'receiving' as const,
    frames: 0,
    handleFrames: 0,
  };
  return runShown(say`Converting ${names[1]}`, async (options) => {
    try {
      await createSource(source);
      const input = {
        source: { id, frames: original.frames },
        channel,
        sourceId: source.id,
        clocks: ratesOfClocks({ ppm }),
        rateHz,
      };
      const read = await importClient.run('reclock', input, options);
      const kept = { ...source, ...read, state: 'kept' as const };
      await finishSource(source.id, kept);
      rememberSource(kept);
      return { source: source.id, channel: 0, frames: read.frames, ppm };
    } catch (thrown) {
      await removeSource(source.id).catch(() => undefined);
      throw thrown;
    }
  });
}
