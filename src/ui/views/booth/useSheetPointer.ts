import { useRef, type MouseEvent, type PointerEvent } from 'react';
import { changeGain, slide } from '@/state/sheet/editing';
import { moveLineMark } from '@/state/script/lines';
import { select, setCaret, usePart } from '@/state/sheet/part';
import { snapped } from '@/state/sheet/snapping';
import { focusOn } from '@/state/sheet/staveFocus';
import { useTransport } from '@/state/hearing/transport';
import { guidesOf } from '@/core/timeline/guides';
import { bedsOf } from '@/core/timeline/mixEdits';
import { dragPoint, setPointAt } from '@/state/mix/points';
import { choose } from '@/state/mix/strips';
import { lineTagBox, type LineTag } from '../../canvas/drawMarks';
import { levelOfY, pointAt, type DrawnLevels } from '../../canvas/drawMix';
import {
  contentWidth,
  frameAt,
  margins,
  rowBox,
  rowHeight,
  rowOfFrame,
  staveBox,
  type SheetGeometry,
} from '../../canvas/sheetGeometry';

const snapPixels = 6;
/** A drag with Ctrl or Cmd means sliding or gain once it has gone this far. */
const decidedPixels = 6;
const pixelsPerDb = 4;

/** What a drag that has begun is about. */
type Drag =
  | { kind: 'select'; anchor: number }
  /** A finger that may tap, select or move the page. */
  | { kind: 'touch'; frame: number; x: number }
  | { kind: 'line'; markId: string }
  | { kind: 'point'; levels: DrawnLevels; index: number }
  | { kind: 'change'; frame: number; x: number; y: number; meant: 'slide' | 'gain' | null };

/**
 * Click sets the caret, drag selects, Shift+click extends the selection, across rows as well. With Ctrl or
 * Cmd inside the selection: sideways slides the passage, up and down changes its level. The number of a line
 * is dragged to where it is read. Snaps to marks, cuts and pauses; Alt holds that off. Where levels are shown
 * their points are dragged, and a double click on a stave sets one. A finger that moves sideways selects; up
 * and down it moves the sheet.
 */
export function useSheetPointer(
  geometry: SheetGeometry,
  scrollTop: number,
  tags: readonly LineTag[],
  levels: readonly DrawnLevels[] = [],
) {
  const drag = useRef<Drag | null>(null);
  const place = (event: MouseEvent<HTMLCanvasElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top + scrollTop };
  };
  const frameOf = (event: PointerEvent<HTMLCanvasElement>) => {
    const { x, y } = place(event);
    const frame = frameAt(geometry, x, y);
    const reach = (snapPixels * geometry.framesPerRow) / contentWidth(geometry);
    return event.altKey ? frame : snapped(frame, reach);
  };
  const tagAt = ({ x, y }: { x: number; y: number }) =>
    tags.find((tag) => {
      const box = lineTagBox(geometry, tag);
      return x >= box.x - 2 && x <= box.x + box.width && y >= box.y && y <= box.y + box.height;
    });
  const movePoint = (
    event: PointerEvent<HTMLCanvasElement>,
    point: Drag & { kind: 'point' },
    done: boolean,
  ) => {
    const { x, y } = place(event);
    const { id, points, stave } = point.levels;
    const at = frameAt(geometry, x, y);
    const { centre, half } = staveBox(geometry, rowOfFrame(geometry, at), stave);
    dragPoint(id, points, point.index, { at, db: levelOfY(centre, half, y) }, done);
  };
  return {
    onDoubleClick: (event: MouseEvent<HTMLCanvasElement>) => {
      const { x, y } = place(event);
      const row = Math.max(0, Math.floor((y - margins.top) / rowHeight(geometry)));
      const { top, bottom } = rowBox(geometry, row);
      const stave = Math.floor(((y - top) / (bottom - top)) * geometry.staves);
      const drawn = levels.find((one) => one.stave === stave);
      if (drawn && y >= top && y < bottom) setPointAt(drawn.id, frameAt(geometry, x, y));
    },
    onPointerDown: (event: PointerEvent<HTMLCanvasElement>) => {
      const { mode } = useTransport.getState();
      if (event.button !== 0 || mode === 'recording' || mode === 'rolling') return;
      const at = place(event);
      if (at.x < margins.left - 2) return chooseStave(geometry, at.y);
      event.currentTarget.setPointerCapture(event.pointerId);
      const point = pointAt(geometry, levels, at);
      if (point) {
        choose(point.levels.id);
        drag.current = { kind: 'point', ...point };
        return;
      }
      const tag = tagAt(at);
      if (tag) {
        drag.current = { kind: 'line', markId: tag.markId };
        return;
      }
      const frame = frameOf(event);
      const { selection, caret } = usePart.getState();
      const raw = frameAt(geometry, at.x, at.y);
      if ((event.ctrlKey || event.metaKey) && selection && raw >= selection.from && raw < selection.to) {
        drag.current = { kind: 'change', frame: raw, ...at, meant: null };
        return;
      }
      if (event.pointerType === 'touch') {
        drag.current = { kind: 'touch', frame, x: at.x };
        return;
      }
      if (event.shiftKey) {
        drag.current = { kind: 'select', anchor: caret };
        select(caret, frame);
        return;
      }
      drag.current = { kind: 'select', anchor: frame };
      select(frame, frame);
      setCaret(frame);
    },
    onPointerMove: (event: PointerEvent<HTMLCanvasElement>) => {
      const doing = drag.current;
      if (doing?.kind === 'touch' && Math.abs(place(event).x - doing.x) >= decidedPixels)
        drag.current = { kind: 'select', anchor: doing.frame };
      else if (doing?.kind === 'point') movePoint(event, doing, false);
      else if (doing?.kind === 'select') {
        const frame = frameOf(event);
        select(doing.anchor, frame);
        if (frame < doing.anchor) setCaret(frame);
      } else if (doing?.kind === 'change' && !doing.meant) {
        const { x, y } = place(event);
        const [across, along] = [Math.abs(y - doing.y), Math.abs(x - doing.x)];
        if (Math.max(across, along) >= decidedPixels)
          drag.current = { ...doing, meant: along > across ? 'slide' : 'gain' };
      }
    },
    /** The finger moves the page: nothing was meant by it here. */
    onPointerCancel: () => {
      drag.current = null;
    },
    onPointerUp: (event: PointerEvent<HTMLCanvasElement>) => {
      const doing = drag.current;
      drag.current = null;
      if (doing?.kind === 'point') movePoint(event, doing, true);
      if (doing?.kind === 'touch') {
        select(doing.frame, doing.frame);
        setCaret(doing.frame);
      }
      if (doing?.kind === 'line') moveLineMark(doing.markId, frameOf(event));
      if (doing?.kind !== 'change') return;
      const { selection } = usePart.getState();
      const { x, y } = place(event);
      if (doing.meant === 'slide' && selection) slide(selection, frameAt(geometry, x, y) - doing.frame);
      if (doing.meant === 'gain') {
        const gainDb = Math.round(((doing.y - y) / pixelsPerDb) * 2) / 2;
        if (gainDb !== 0) changeGain(gainDb);
      }
    },
  };
}

/**
 * A click on the name of a stave, where there are several, makes edits of sound be for it alone; again, for
 * all.
 */
function chooseStave(geometry: SheetGeometry, y: number) {
  const { timeline } = usePart.getState();
  const { tracks } = timeline;
  if (geometry.staves < 2) return;
  const row = Math.max(0, Math.floor((y - margins.top) / rowHeight(geometry)));
  const { top, bottom } = rowBox(geometry, row);
  if (y < top || y > bottom) return;
  const stave = Math.min(geometry.staves - 1, Math.floor(((y - top) / (bottom - top)) * geometry.staves));
  const other = [...guidesOf(timeline), ...bedsOf(timeline)][stave - tracks.length];
  if (other) return choose(other.id);
  choose(tracks[stave].id);
  if (tracks.length > 1) focusOn(tracks[stave].id);
}
