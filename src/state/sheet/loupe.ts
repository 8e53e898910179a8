import { say } from '@/texts/say';
import { PieceTable } from '@/core/timeline/pieces';
import { render } from '@/core/timeline/render';
import type { Timeline } from '@/core/timeline/timeline';
import { BlockReader } from '@/storage/blockReader';
import { edit } from './part';
import { focusedTracks } from './staveFocus';
import { sourceList, useProject } from '../project/openProject';
import { moveJoint, moveStrike, setJoin } from '@/core/timeline/joints';
import type { FadeShape } from '@/core/timeline/pieces';

/** The table of the track the loupe shows: the focused one, else the first. */
export const loupeTable = ({ tracks }: Timeline, focus: string | null): PieceTable =>
  (tracks.find(({ id }) => id === focus) ?? tracks[0]).table;

export const sourceFrames = (id: string) => useProject.getState().sources.get(id)?.frames ?? 0;

/**
 * Sheet audio [from, to) of the loupe's track, struck passages as they would sound; outside the sheet
 * silence.
 */
export async function loupeSamples(table: PieceTable, from: number, to: number): Promise<Float32Array> {
  const samples = new Float32Array(Math.max(0, to - from));
  const first = Math.max(0, from);
  const last = Math.min(table.frames, to);
  if (last <= first) return samples;
  const all = PieceTable.of(table.slice(first, last));
  const audio = await render(all, 0, last - first, new BlockReader(sourceList()), { joinFrames: 0 });
  samples.set(audio, first - from);
  return samples;
}

/** Moves the joint at a sheet frame: more of one reading, less of the other. */
export const dragJoint = (at: number, by: number) =>
  edit(say`move joint`, (timeline) => moveJoint(timeline, at, by, sourceFrames));

/** Moves one end of a struck passage, or with 'both' the passage as a whole. */
export const dragStrike = (range: { from: number; to: number }, end: 'from' | 'to' | 'both', by: number) =>
  edit(end === 'both' ? say`move strike` : say`move end of strike`, (timeline) =>
    moveStrike(timeline, range, end === 'to' ? 0 : by, end === 'from' ? 0 : by),
  );

export const setJoinAt = (at: number, frames: number | null, shape: FadeShape) =>
  edit('join', (timeline) => setJoin(timeline, at, frames, shape, focusedTracks()));
