import { decimal, say } from '@/texts/say';
import { secondsToFrames } from '@/core/base/units';
import { AnchorIndex, sourceStretch } from '@/core/timeline/anchors';
import { heardTable, heardTracks } from '@/core/timeline/heard';
import { fillGaps, patchTone as patch, tonePiece, type ToneChoice } from '@/core/timeline/roomEdits';
import { PieceTable } from '@/core/timeline/pieces';
import type { Range } from '@/core/timeline/range';
import { soundingOfTracks } from '@/core/timeline/sounding';
import type { Track } from '@/core/timeline/timeline';
import { findingClients } from '../page/jobs';
import { notify, notifyError } from '../page/notices';
import { edit, openPartRecord, partClock, select, setCaret, usePart } from '../sheet/part';
import { playTracks } from '../hearing/playing';
import { changePart } from '../project/settings';
import { rateOfProject, soundingSettings, sourceLengths } from '../project/openProject';
import { levelsAround, meanSquares, pauseLevel } from '../pictures/sheetLevels';
import { focusedTracks } from '../sheet/staveFocus';
import { toneLookup } from '../project/tones';

/** Room tone louder than this is told of; *common practice*. */
export const loudestToneDbfs = -60;
/** As much of a part is listened to when room tone is looked for. */
const lookSeconds = 600;
const shortestToneSeconds = 1;
const hearSeconds = 6;
/** The pauses this far around a patch say how loud it has to be. */
const aroundSeconds = 4;
/** A patch is never made louder or softer than its tone by more than this. */
const mostMatchDb = 12;

/** The room tone of the open part's first focused track. */
export const toneNow = (): ToneChoice | null => {
  const { id, timeline } = usePart.getState();
  const only = focusedTracks();
  const track = timeline.tracks.find((candidate) => only === null || only.has(candidate.id));
  return track ? toneLookup(id)(track.id) : null;
};

/** Keeps a track's room tone with the open part. */
export function keepTone(trackId: string, tone: ToneChoice): void {
  const part = openPartRecord();
  if (!part) return;
  changePart(part.id, { tones: { ...part.tones, [trackId]: tone } });
  // What was left empty until now is filled.
  edit(say`fill with room tone`, (timeline) => fillGaps(timeline, toneLookup(part.id)));
}

/**
 * Finds room tone for every track that has none, in what is heard of the open part; returns whether all have
 * one then.
 */
export async function findTone(again = false): Promise<boolean> {
  const { id, timeline } = usePart.getState();
  const known = toneLookup(id);
  const heard = heardTracks(timeline);
  for (const [index, { id: track }] of timeline.tracks.entries()) {
    const { table } = heard[index];
    if ((known(track) && !again) || table.frames === 0) continue;
    try {
      const { tone } = await findingClients[0].run('find', {
        sounding: soundingOfTracks([{ table }], soundingSettings()),
        sources: sourceLengths(),
        range: { from: 0, to: Math.min(table.frames, lookSeconds * rateOfProject()) },
        marks: [],
        options: { kinds: [], longestPause: 9, shortestPause: 0, breathOverDb: 99, levelOffDb: 99 },
      });
      const region = tone && sourceStretch(table, tone.from, tone.to);
      const shortest = shortestToneSeconds * rateOfProject() * 0.95;
      if (!tone || !region || region.end - region.start < shortest) continue;
      if (usePart.getState().id === id)
        keepTone(track, { ...region, levelDbfs: tone.levelDbfs, origin: 'found' });
    } catch (error) {
      notifyError(error);
      return false;
    }
  }
  const found = toneLookup(id);
  return usePart.getState().timeline.tracks.every(({ id: track }) => found(track) !== null);
}

const toneMissing = () =>
  notify(
    'info',
    say`No second of quiet room was found in this part. Select one where nobody speaks and choose “Use as room tone”, or make a sound check.`,
  );

/** Takes the selection as the room tone of the focused tracks. */
export async function useSelectionAsTone(): Promise<void> {
  const { selection, timeline } = usePart.getState();
  if (!selection) return notify('info', say`Select at least a second in which nobody speaks first.`);
  const only = focusedTracks();
  for (const { id, table } of timeline.tracks) {
    if (only && !only.has(id)) continue;
    const heard = heardTable(table, partClock());
    const region = sourceStretch(
      heard,
      partClock().sheetToHeard(selection.from),
      partClock().sheetToHeard(selection.to),
    );
    if (!region || region.end - region.start < shortestToneSeconds * rateOfProject()) {
      notify(
        'info',
        say`Room tone needs at least one second of a single recording. Select a longer stretch.`,
      );
      continue;
    }
    const levelDbfs = pauseLevel(await meanSquares(table, selection.from, selection.to));
    keepTone(id, { ...region, levelDbfs, origin: 'chosen' });
    const over = levelDbfs - loudestToneDbfs;
    notify(
      over > 0 ? 'warning' : 'success',
      over > 0
        ? say`This is the room tone now. At ${decimal(levelDbfs, 1)} dBFS it is ${decimal(over, 1)} dB over −60 dBFS.`
        : say`This is the room tone now, at ${decimal(levelDbfs, 1)} dBFS.`,
      over > 0 ? 'booth' : undefined,
    );
  }
}

/** Lets the room tone be heard by itself. */
export async function hearTone(): Promise<void> {
  if (!toneNow() && !(await findTone())) return toneMissing();
  const tone = toneNow();
  if (!tone) return toneMissing();
  const length = hearSeconds * rateOfProject();
  await playTracks([{ table: PieceTable.of([tonePiece(tone, length, 1)]) }], { from: 0, to: length });
}

/** Selects the stretch of the sheet that the room tone is made from. */
export function showTone(): void {
  const tone = toneNow();
  const { timeline } = usePart.getState();
  for (const { table } of timeline.tracks) {
    const index = new AnchorIndex(table);
    const at = (frame: number) =>
      tone && index.sheetOf({ source: tone.source, channel: tone.channel, frame });
    const from = tone && at(tone.start);
    const last = tone && at(tone.end - 1);
    if (typeof from !== 'number' || typeof last !== 'number' || last < from) continue;
    select(from, last + 1);
    return setCaret(from);
  }
  notify('info', say`The room tone is from a recording that does not stand on this sheet.`);
}

/** How much louder than its region a patch on a track has to be to lie in the room around it, in dB. */
async function matchDb({ table }: Track, range: Range, tone: ToneChoice): Promise<number> {
  const around = pauseLevel(
    await levelsAround(table, range, secondsToFrames(aroundSeconds, rateOfProject())),
  );
  if (!Number.isFinite(around) || Math.abs(around - tone.levelDbfs) > mostMatchDb) return 0;
  return Math.round((around - tone.levelDbfs) * 10) / 10;
}

/** Patch tone: room tone over the selection, on each track as loud as the pauses around it there. */
export async function patchTone(): Promise<void> {
  const { selection } = usePart.getState();
  if (!selection) return notify('info', say`Select what the room tone is to cover first.`);
  await patchToneOver(selection);
}

export async function patchToneOver(range: Range): Promise<void> {
  const { id } = usePart.getState();
  if (!(await findTone()) && !toneNow()) return toneMissing();
  const only = focusedTracks();
  const lookup = toneLookup(id);
  const gains = new Map<string, number>();
  for (const track of usePart.getState().timeline.tracks) {
    const tone = only && !only.has(track.id) ? null : lookup(track.id);
    if (tone) gains.set(track.id, await matchDb(track, range, tone));
  }
  if (usePart.getState().id !== id) return;
  edit(say`patch tone`, (timeline) =>
    [...gains].reduce(
      (result, [track, gainDb]) => patch(result, range, lookup, gainDb, new Set([track])),
      timeline,
    ),
  );
}
