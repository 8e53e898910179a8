import { create } from 'zustand';
import { safeName } from '@/core/formats/fileNames';
import { PieceTable } from '@/core/timeline/pieces';
import { hearTake, insertRecording, stackAt } from '@/core/timeline/takes';
import { sourcesOf, type TakePlace } from '@/core/timeline/timeline';
import type { FileFormat } from '@/core/specs/fileFormat';
import { recordedOf, finishSource } from '@/storage/sources';
import type { SourceRecord } from '@/storage/schema';
import { writeItems } from './exporting';
import { broadcastInfo } from './exportPlan';
import { notify } from './notices';
import { edit, usePart } from './part';
import { playTake, endPlaying, takeFrame } from './playing';
import { nextTake } from './recordPlan';
import { save } from './saving';
import { isReadOnly, rememberSource, useSession } from './session';
import { useTransport } from './transport';

/** What is chosen in the list of takes: for comparing and for exporting. */
export const useTakes = create<{ chosen: ReadonlySet<string> }>(() => ({ chosen: new Set() }));

export function choose(id: string, on: boolean): void {
  useTakes.setState(({ chosen }) => {
    const next = new Set(chosen);
    if (on) next.add(id);
    else next.delete(id);
    return { chosen: next };
  });
}

export const chooseOnly = (ids: readonly string[]) => useTakes.setState({ chosen: new Set(ids) });

export const takeLength = (take: Pick<SourceRecord, 'frames' | 'handleFrames'>) =>
  take.frames - take.handleFrames;

/** Changes what the user says about a take; its audio never changes. */
export function changeTake(
  take: SourceRecord,
  changes: Partial<Pick<SourceRecord, 'name' | 'note' | 'circled' | 'deleted' | 'partId' | 'take'>>,
): void {
  if (isReadOnly()) return;
  rememberSource({ ...take, ...changes });
  void save(() => finishSource(take.id, changes));
}

/** Hides a take until the project is closed; then its audio goes. One that is on the sheet stays. */
export function deleteTake(take: SourceRecord): void {
  if (sourcesOf(usePart.getState().timeline).has(take.id)) {
    return notify(
      'info',
      `${take.name} is on the sheet. Put another take in its place, or strike it and close up; then delete it.`,
    );
  }
  choose(take.id, false);
  changeTake(take, { deleted: true });
}

export const restoreTake = (take: SourceRecord) => changeTake(take, { deleted: false });

/** Gives takes that are not heard here to another part, where they can be put in place; those on the sheet stay. */
export function moveTakes(takes: readonly SourceRecord[], partId: string): void {
  const onSheet = sourcesOf(usePart.getState().timeline);
  const free = takes.filter(({ id }) => !onSheet.has(id));
  if (free.length < takes.length)
    notify(
      'info',
      'A take that is on the sheet stays in its part. Move its passage, or put another take in its place first.',
    );
  for (const take of free) {
    choose(take.id, false);
    changeTake(take, { partId, take: nextTake(partId) });
  }
}

/** Circles the take that is being recorded or heard at the caret, or takes its circle away. */
export function circleAtCaret(): void {
  const { timeline, caret } = usePart.getState();
  const { sources } = useSession.getState();
  const at = Math.min(caret, timeline.tracks[0].table.sheetFrames - 1);
  if (at < 0) return;
  const [piece] = timeline.tracks[0].table.slice(at, at + 1);
  const take = piece?.kind === 'audio' ? sources.get(piece.source) : undefined;
  if (take) changeTake(take, { circled: !take.circled });
}

// — Listening —

export async function listen(take: SourceRecord): Promise<void> {
  if (useTransport.getState().playingTake === take.id) return endPlaying();
  await playTake(take);
}

/** Gains in dB that bring takes to the loudness of the quietest of them, so that louder does not seem better. */
export function equalGains(takes: readonly SourceRecord[]): ReadonlyMap<string, number> {
  const loudness = takes.map((take) => take.summary?.loudnessLufs ?? null);
  const known = loudness.filter((value) => value !== null);
  const quietest = Math.min(...known);
  return new Map(takes.map((take, i) => [take.id, loudness[i] === null ? 0 : quietest - (loudness[i] ?? 0)]));
}

/** Plays one of the takes that are compared, at equal loudness; while another one plays, from the same moment on. */
export async function playCompared(take: SourceRecord, compared: readonly SourceRecord[]): Promise<void> {
  const from = takeFrame() ?? 0;
  await playTake(take, from >= takeLength(take) ? 0 : from, equalGains(compared).get(take.id) ?? 0);
}

// — On the sheet —

const placesOf = (places: readonly TakePlace[], id: string) => places.filter(({ source }) => source === id);

/** Puts a take where it belongs, in place of what is there now; one that belongs nowhere goes in at the caret. */
export function putInPlace(take: SourceRecord): void {
  const { timeline, caret } = usePart.getState();
  const places = placesOf(timeline.places, take.id);
  if (places.length === 0) {
    edit(`insert take ${take.take}`, (before) =>
      insertRecording(before, recordedOf(take, takeLength(take)), caret),
    );
    return;
  }
  const changed = edit(`hear take ${take.take}`, (before) =>
    places.reduce(
      (result, { at, length }) => hearTake(result, take.id, { from: at, to: at + length }),
      before,
    ),
  );
  if (!changed) notify('info', `${take.name} is what is heard in its place already.`);
}

/** The takes that could be heard in the selection, and those that are. */
export function stackOfSelection(): { takes: SourceRecord[]; heard: ReadonlySet<string> } {
  const { timeline, selection } = usePart.getState();
  const { sources } = useSession.getState();
  if (!selection) return { takes: [], heard: new Set() };
  const takes = [...stackAt(timeline, selection).keys()].flatMap((id) => sources.get(id) ?? []);
  const heard = new Set(
    timeline.tracks.flatMap(({ table }) =>
      table
        .slice(selection.from, selection.to)
        .flatMap((piece) => (piece.kind === 'audio' && !piece.struck ? [piece.source] : [])),
    ),
  );
  return { takes: takes.filter(({ deleted }) => !deleted).sort((a, b) => a.take - b.take), heard };
}

/** Lets a take be heard in the selection. */
export function hearInSelection(take: SourceRecord): void {
  const { selection } = usePart.getState();
  if (selection) edit(`hear take ${take.take}`, (before) => hearTake(before, take.id, selection));
}

// — Files —

/** Writes takes as files of their own; with their time position as Broadcast WAV, so that another program can put them in place. */
export async function exportTakes(
  takes: readonly SourceRecord[],
  format: FileFormat,
  withPosition: boolean,
): Promise<void> {
  const { project, parts } = useSession.getState();
  const { timeline, id } = usePart.getState();
  if (!project || takes.length === 0) return;
  const part = parts.find((candidate) => candidate.id === id)?.name ?? '';
  const { table } = timeline.tracks[0];
  const items = takes.flatMap((take) => {
    const length = takeLength(take);
    return [...recordedOf(take, length)].map(([trackId, pieces]) => {
      const track = timeline.tracks.find((candidate) => candidate.id === trackId);
      const side = take.channels > 1 ? `_${safeName(track?.name ?? trackId)}` : '';
      const place = placesOf(timeline.places, take.id)[0];
      const scale = format.rateHz / project.rateHz;
      return {
        fileName: `${safeName(project.name)}_${safeName(part)}_${safeName(take.name)}${side}.${format.container}`,
        format,
        sounding: { tracks: [{ pieces: PieceTable.of(pieces).pieces }] },
        range: { from: 0, to: length },
        broadcast:
          withPosition && format.container === 'wav'
            ? broadcastInfo(format, {
                description: `${project.name}, ${part}, ${take.name}`,
                reference: take.id,
                recordedAt: take.startedAt,
                timeReference: place ? Math.round(table.sheetToHeard(place.at) * scale) : 0,
              })
            : undefined,
      };
    });
  });
  await writeItems(items, `${safeName(project.name)}_takes.zip`);
}
