import { dbToAmplitude } from '@/core/base/units';
import { gainWithin, sourceSpan } from '@/core/timeline/bedSpan';
import { placedClips } from '@/core/timeline/bedTime';
import { guidesOf } from '@/core/timeline/guides';
import { levelAt, type LevelPoint } from '@/core/timeline/levelPoints';
import { bedsOf, stripOf } from '@/core/timeline/mixEdits';
import type { Turn } from '@/core/speech/turns';
import { clockOf, type Timeline } from '@/core/timeline/timeline';
import type { InkPalette } from '../theme/palette';
import type { RowInk } from './drawSheet';
import { line, noteFont } from './pen';
import { RowColumns, spansOf } from './rowColumns';
import { margins, rowOfFrame, rowStretches, staveBox, xOfFrame, type SheetGeometry } from './sheetGeometry';

type Ink = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

/** The first stave below those of the voices and of the guides. */
const firstBed = (timeline: Timeline) => timeline.tracks.length + guidesOf(timeline).length;

/** Staves of a part: one for each track, below them one for each guide and one for each bed. */
export const stavesOf = (timeline: Timeline) => firstBed(timeline) + bedsOf(timeline).length;

/** The beds of a row, as loud as they are heard, in heard time under the sheet's. */
export function drawBeds(context: Ink, { geometry, peaks, page, timeline }: RowInk, row: number): void {
  const beds = bedsOf(timeline);
  if (beds.length === 0) return;
  const placed = placedClips(timeline);
  const clock = clockOf(timeline);
  const from = row * geometry.framesPerRow;
  const heard = clock.heardIn({ from, to: Math.min(clock.sheetFrames, from + geometry.framesPerRow) });
  beds.forEach(({ id }, index) => {
    const strip = stripOf(timeline, id);
    const columns = new RowColumns(Math.ceil(geometry.width));
    for (const range of heard)
      spansOf(geometry, { row, ...range }, (x, first, last) => {
        const at = clock.sheetToHeard(first);
        const gain = dbToAmplitude(strip.levelDb + levelAt(strip.points, first));
        for (const clip of placed[index]) {
          const begin = Math.max(0, at - clip.at);
          const end = Math.min(clip.frames, at - clip.at + last - first);
          if (end <= begin) continue;
          const span = sourceSpan(clip, begin, end);
          const found = peaks(clip.source, 0, span.from, Math.max(span.from + 1, span.to));
          const own = gain * gainWithin(clip, at);
          if (found) columns.add(x, found.low * own, found.high * own);
        }
      });
    const { centre, half } = staveBox(geometry, row, firstBed(timeline) + index);
    context.fillStyle = page.sage;
    columns.fill(context, centre, half);
  });
}

/** Names of the beds beside their staves. */
export function drawBedNames(context: Ink, { geometry, page, timeline }: RowInk, row: number): void {
  context.font = noteFont;
  context.textAlign = 'right';
  context.textBaseline = 'middle';
  context.fillStyle = page.sage;
  bedsOf(timeline).forEach(({ name }, index) => {
    const { centre } = staveBox(geometry, row, firstBed(timeline) + index);
    context.fillText(name, margins.left - 10, centre, margins.left - 14);
  });
}

/** Levels over a stave: its middle is as it was recorded, its upper edge +12 dB, its lower one −24. */
const topDb = 12;
const bottomDb = -24;

export const yOfLevel = (centre: number, half: number, db: number): number => {
  const share = db >= 0 ? Math.min(1, db / topDb) : Math.max(-1, db / -bottomDb);
  return centre - share * half;
};

export const levelOfY = (centre: number, half: number, y: number): number => {
  const share = Math.max(-1, Math.min(1, (centre - y) / half));
  return Math.round((share >= 0 ? share * topDb : -share * bottomDb) * 2) / 2;
};

/** Level points of a strip and the stave they are drawn on. */
export interface DrawnLevels {
  readonly id: string;
  readonly stave: number;
  readonly points: readonly LevelPoint[];
  readonly chosen: boolean;
}

const pointRadius = 4;
/** A point is under the pointer when it is as near as this. */
const reachPixels = 8;

/** Level points and the line between them, on the rows that are seen. */
export function drawLevelPoints(
  context: CanvasRenderingContext2D,
  {
    geometry,
    page,
    levels,
    firstRow,
    lastRow,
  }: {
    geometry: SheetGeometry;
    page: InkPalette;
    levels: readonly DrawnLevels[];
    firstRow: number;
    lastRow: number;
  },
): void {
  for (const { stave, points, chosen } of levels) {
    if (points.length === 0) continue;
    context.strokeStyle = page.blue;
    context.lineWidth = chosen ? 1.75 : 1;
    context.globalAlpha = chosen ? 1 : 0.6;
    for (let row = firstRow; row <= lastRow; row++)
      drawRowLevels(context, geometry, page, row, stave, points, chosen);
    context.globalAlpha = 1;
  }
}

/** Who speaks when: a line under the stave of the voice that has its turn, on the rows that are seen. */
export function drawTurns(
  context: CanvasRenderingContext2D,
  {
    geometry,
    page,
    timeline,
    turns,
    firstRow,
    lastRow,
  }: {
    geometry: SheetGeometry;
    page: InkPalette;
    timeline: Timeline;
    turns: readonly Turn[];
    firstRow: number;
    lastRow: number;
  },
): void {
  const staves = new Map(timeline.tracks.map(({ id }, stave) => [id, stave]));
  context.fillStyle = page.sage;
  for (const { track, from, to } of turns) {
    const stave = staves.get(track);
    if (stave === undefined) continue;
    for (const { row, from: start, to: end } of rowStretches(geometry, { from, to }, firstRow, lastRow)) {
      const { centre, half } = staveBox(geometry, row, stave);
      const x = xOfFrame(geometry, start, row);
      context.fillRect(x, centre + half - turnPixels, xOfFrame(geometry, end, row) - x, turnPixels);
    }
  }
}

const turnPixels = 3;

function drawRowLevels(
  context: CanvasRenderingContext2D,
  geometry: SheetGeometry,
  page: InkPalette,
  row: number,
  stave: number,
  points: readonly LevelPoint[],
  chosen: boolean,
) {
  const from = row * geometry.framesPerRow;
  const to = Math.min(geometry.frames, from + geometry.framesPerRow);
  if (to <= from) return;
  const { centre, half } = staveBox(geometry, row, stave);
  const inside = points.filter(({ at }) => at >= from && at < to);
  const ends = [from, ...inside.map(({ at }) => at), to];
  const y = (frame: number) => yOfLevel(centre, half, levelAt(points, frame));
  for (let i = 1; i < ends.length; i++)
    line(
      context,
      xOfFrame(geometry, ends[i - 1], row),
      y(ends[i - 1]),
      xOfFrame(geometry, ends[i], row),
      y(ends[i]),
    );
  for (const { at, db, passage } of inside) {
    context.fillStyle = passage === undefined ? page.blue : page.sheet;
    context.beginPath();
    context.arc(
      xOfFrame(geometry, at, row),
      yOfLevel(centre, half, db),
      chosen ? pointRadius : 3,
      0,
      2 * Math.PI,
    );
    context.fill();
    context.stroke();
  }
}

/** The level point under a place on the sheet; null where there is none. */
export function pointAt(
  geometry: SheetGeometry,
  levels: readonly DrawnLevels[],
  { x, y }: { x: number; y: number },
): { levels: DrawnLevels; index: number } | null {
  for (const drawn of levels)
    for (const [index, { at, db }] of drawn.points.entries()) {
      const row = rowOfFrame(geometry, at);
      const { centre, half } = staveBox(geometry, row, drawn.stave);
      const apart = Math.hypot(xOfFrame(geometry, at, row) - x, yOfLevel(centre, half, db) - y);
      if (apart <= reachPixels) return { levels: drawn, index };
    }
  return null;
}
