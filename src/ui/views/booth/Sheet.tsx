'use client';
import Box from '@mui/material/Box';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { formatTime } from '@/core/base/units';
import { sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import type { LiveTake } from '@/state/hearing/liveTake';
import { lineReadings } from '@/core/timeline/scriptLines';
import { useFinding } from '@/state/finds/finding';
import { usePart } from '@/state/sheet/part';
import { peakCache } from '@/state/pictures/peaks';
import { foundMarks } from '@/state/recording/placing';
import { useProject } from '@/state/project/openProject';
import { headFrame, useTransport } from '@/state/hearing/transport';
import { spectra } from '@/state/pictures/spectra';
import { useStaveFocus } from '@/state/sheet/staveFocus';
import { useView } from '@/state/page/view';
import { drawOverlay } from '../../canvas/drawOverlay';
import { drawOverRows } from '../../canvas/drawSheet';
import { RowCache } from '../../canvas/rowCache';
import { spectrumPen } from '../../canvas/spectrumInk';
import {
  contentWidth,
  margins,
  rowBox,
  rowHeight,
  rowOfFrame,
  sheetHeight,
  type SheetGeometry,
} from '../../canvas/sheetGeometry';
import { surface } from '../../canvas/surface';
import { useSize } from '../../hooks/useSize';
import { usePage } from '../../theme/AppTheme';
import { circledNumber } from '../../components/circledNumber';
import { useOpenProposals } from './useOpenProposals';
import { useSheetPointer } from './useSheetPointer';

/**
 * The wrapped waveform of the open part. Drawing reads peaks of the visible rows only, and happens only on
 * change.
 */
export function Sheet() {
  const { ref: scroller, size } = useSize<HTMLDivElement>();
  const base = useRef<HTMLCanvasElement>(null);
  const over = useRef<HTMLCanvasElement>(null);
  const rowCache = useRef(new RowCache());
  const [scrollTop, setScrollTop] = useState(0);
  const [loads, setLoads] = useState(0);
  const page = usePage();
  const timeline = usePart((state) => state.timeline);
  const caret = usePart((state) => state.caret);
  const selection = usePart((state) => state.selection);
  const live = useTransport((state) => state.live);
  const mode = useTransport((state) => state.mode);
  const rolling = useTransport((state) => state.rolling);
  const counting = useProject((state) => state.project?.recording?.countIn ?? 'none');
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const secondsPerRow = useView((state) => state.secondsPerRow);
  const staveScale = useView((state) => state.staveScale);
  const picture = useView((state) => state.picture);
  const focus = useStaveFocus((state) => state.track);
  const current = useFinding((state) => state.current);
  const open = useOpenProposals();
  const partId = usePart((state) => state.id);
  const script = useProject((state) => state.parts.find(({ id }) => id === partId)?.script);
  const [liveFrames, setLiveFrames] = useState(0);

  useEffect(() => {
    const more = () => setLoads((count) => count + 1);
    const forget = [peakCache.onLoaded(more), spectra.onLoaded(more)];
    return () => forget.forEach((stop) => stop());
  }, []);

  const proposals = useMemo(
    () =>
      open.map(({ proposal, range }) => ({
        ...range,
        current: proposal.id === current,
        reason: proposal.reason,
      })),
    [open, current],
  );
  const lineTags = useMemo(() => {
    const numbers = new Map(script?.map(({ id }, index) => [id, String(index + 1)]));
    return lineReadings(timeline).flatMap(({ markId, line, from }) => {
      const label = numbers.get(line);
      return label ? [{ markId, at: from, label }] : [];
    });
  }, [timeline, script]);

  const geometry = useMemo<SheetGeometry>(
    () => ({
      width: size.width,
      framesPerRow: secondsPerRow * rateHz,
      staves: timeline.tracks.length,
      staveScale,
      frames: Math.max(sheetFramesOf(timeline), live ? live.startFrame + liveFrames : 0),
    }),
    [size.width, secondsPerRow, staveScale, rateHz, timeline, live, liveFrames],
  );

  const rows = useMemo(() => {
    const height = rowHeight(geometry);
    return {
      firstRow: Math.max(0, Math.floor((scrollTop - margins.top) / height)),
      lastRow: Math.ceil((scrollTop + size.height) / height),
    };
  }, [geometry, scrollTop, size.height]);

  // Runs on every change of what is drawn; `loads` and `liveFrames` count because peaks live outside React.
  useEffect(() => {
    const context = base.current && surface(base.current, size.width, size.height, scrollTop);
    if (!context || size.width === 0) return;
    const peaks = peakCache.span.bind(peakCache);
    const running = live && livePicture(live, timeline, rateHz);
    const spectrum =
      picture === 'spectrum' ? spectrumPen(page, geometry.framesPerRow / contentWidth(geometry)) : null;
    const ink = { geometry, rateHz, page, timeline, peaks, spectrum, focus };
    rowCache.current.draw(context, ink, rows.firstRow, rows.lastRow, loads);
    drawOverRows(context, { ...ink, live: running, proposals, lineTags, ...rows });
  }, [
    geometry,
    rows,
    page,
    rateHz,
    timeline,
    live,
    liveFrames,
    loads,
    scrollTop,
    size,
    picture,
    proposals,
    lineTags,
    focus,
  ]);

  const reveal = useCallback(
    (frame: number, margin = 0) => {
      const element = scroller.current;
      if (!element) return;
      const { top, bottom } = rowBox(geometry, rowOfFrame(geometry, frame));
      const last = element.scrollTop + element.clientHeight - margin;
      if (top - 24 < element.scrollTop) element.scrollTop = Math.max(0, top - 24);
      else if (bottom + 16 > last) element.scrollTop = bottom + 16 - element.clientHeight + margin;
    },
    [geometry, scroller],
  );

  const paintOverlay = useCallback(() => {
    const context = over.current && surface(over.current, size.width, size.height, scrollTop);
    if (!context) return;
    const head = headFrame();
    drawOverlay(context, {
      geometry,
      page,
      caret,
      selection,
      head,
      recording:
        live &&
        `${live.trackIds.length > 1 ? `${live.trackIds.length} tracks` : ''} · take ${circledNumber(live.take)}`.replace(
          /^ /,
          '',
        ),
      rolling: rolling && {
        at: rolling.fromFrame,
        left: Math.max(0, rolling.until - performance.now() / 1000),
        seconds: rolling.seconds,
        large: counting === 'sweep',
      },
      ...rows,
    });
    if (head !== null) reveal(head, rowHeight(geometry));
  }, [geometry, page, caret, selection, live, rolling, counting, rows, scrollTop, size, reveal]);

  useEffect(() => {
    paintOverlay();
    if (mode === 'idle') return;
    let frame = requestAnimationFrame(function next() {
      paintOverlay();
      if (live) setLiveFrames(live.frames);
      frame = requestAnimationFrame(next);
    });
    return () => cancelAnimationFrame(frame);
  }, [paintOverlay, mode, live]);

  useEffect(() => reveal(caret), [caret, reveal]);

  const pointer = useSheetPointer(geometry, scrollTop, lineTags);
  return (
    <Box
      ref={scroller}
      onScroll={(event) => setScrollTop(event.currentTarget.scrollTop)}
      sx={{
        position: 'relative',
        overflowY: 'auto',
        overflowX: 'hidden',
        flex: 1,
        bgcolor: 'background.paper',
        minHeight: 0,
      }}
    >
      <Box
        role="img"
        aria-label={`Sheet: ${formatTime(geometry.frames / rateHz)} recorded, caret at ${formatTime(caret / rateHz, true)}`}
        data-testid="sheet"
        data-frames={geometry.frames}
        data-selection={selection ? `${selection.from} ${selection.to}` : ''}
        sx={{ position: 'sticky', top: 0 }}
        style={{ height: size.height, marginBottom: -size.height }}
      >
        <canvas ref={base} style={{ position: 'absolute', width: size.width, height: size.height }} />
        <canvas
          ref={over}
          style={{
            position: 'absolute',
            width: size.width,
            height: size.height,
            cursor: 'text',
            touchAction: 'pan-y',
          }}
          {...pointer}
        />
      </Box>
      <Box sx={{ height: Math.max(sheetHeight(geometry), 1) }} />
    </Box>
  );
}

/** Peaks of the running take, by the staves it is recorded on. */
function livePicture(live: LiveTake, { tracks }: Timeline, rateHz: number) {
  const staves = new Map(
    live.trackIds.map((id, channel) => [tracks.findIndex((track) => track.id === id), live.peaksOf(channel)]),
  );
  const marks = foundMarks(live, live.frames, rateHz, String);
  return { startFrame: live.startFrame, frames: live.frames, staves, marks };
}
