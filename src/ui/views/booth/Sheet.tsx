'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { formatTime } from '@/core/base/units';
import { sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import type { LiveTake } from '@/state/hearing/liveTake';
import { lineReadings } from '@/core/timeline/scriptLines';
import type { Turn } from '@/core/speech/turns';
import { finishedPictures } from '@/state/chain/finishedPicture';
import { useLag } from '@/state/finds/lag';
import { useFinding } from '@/state/finds/finding';
import { useCues } from '@/state/cues/cues';
import { usePart } from '@/state/sheet/part';
import { peakCache } from '@/state/pictures/peaks';
import type { SourceRange } from '@/state/pictures/peakCache';
import { foundMarks } from '@/state/recording/placing';
import { useProject } from '@/state/project/openProject';
import { useTransport } from '@/state/hearing/transport';
import { spectra } from '@/state/pictures/spectra';
import { useStaveFocus } from '@/state/sheet/staveFocus';
import { useView } from '@/state/page/view';
import type { FinishedInk } from '../../canvas/drawFinished';
import { drawOverlay } from '../../canvas/drawOverlay';
import { drawLevelPoints, drawTurns, stavesOf, type DrawnLevels } from '../../canvas/drawMix';
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
import { useTicks } from '../../hooks/useTicks';
import { useSize } from '../../hooks/useSize';
import { usePage } from '../../theme/AppTheme';
import { SheetHead } from './SheetHead';
import { useOpenProposals } from './useOpenProposals';
import { useSheetPointer } from './useSheetPointer';

/** The sweep before a punch is drawn so often, and then what is recorded. */
const sweepEveryMs = 50;
const inkEveryMs = 200;
/** What has been read is drawn no more often than this. */
const drawLoadedMs = 50;

/** Where levels are changed: the timeline as it is being changed, and the level points of its staves. */
export interface SheetLevels {
  timeline: Timeline;
  levels: readonly DrawnLevels[];
  turns: readonly Turn[];
  /** The voice whose chain is shown, as it comes out of it. */
  finished: FinishedInk | null;
}

/**
 * The wrapped waveform of the open part. Drawing reads peaks of the visible rows only, and happens only on
 * change.
 */
export function Sheet({ mixing = null }: { mixing?: SheetLevels | null }) {
  const { ref: scroller, size } = useSize<HTMLDivElement>();
  const base = useRef<HTMLCanvasElement>(null);
  const over = useRef<HTMLCanvasElement>(null);
  const rowCache = useRef(new RowCache());
  const [scrollTop, setScrollTop] = useState(0);
  const [loads, setLoads] = useState(0);
  const page = usePage();
  const stored = usePart((state) => state.timeline);
  const timeline = mixing?.timeline ?? stored;
  const caret = usePart((state) => state.caret);
  const selection = usePart((state) => state.selection);
  const live = useTransport((state) => state.live);
  const rolling = useTransport((state) => state.rolling);
  const counting = useProject((state) => state.project?.recording?.countIn ?? 'none');
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const secondsPerRow = useView((state) => state.secondsPerRow);
  const staveScale = useView((state) => state.staveScale);
  const picture = useView((state) => state.picture);
  const focus = useStaveFocus((state) => state.track);
  const lags = useLag((state) => state.lags);
  const cue = useCues((state) => state.chosen);
  const current = useFinding((state) => state.current);
  const open = useOpenProposals();
  const partId = usePart((state) => state.id);
  const script = useProject((state) => state.parts.find(({ id }) => id === partId)?.script);
  const [liveFrames, setLiveFrames] = useState(0);

  useEffect(() => {
    // Peaks come in many pieces: what has come meanwhile is drawn together.
    let timer: ReturnType<typeof setTimeout> | undefined;
    let next = 0;
    const more = () => {
      timer ??= setTimeout(() => {
        timer = undefined;
        next = performance.now() + drawLoadedMs;
        // Most of what is read ahead is not seen yet.
        if (rowCache.current.waits) setLoads((count) => count + 1);
      }, next - performance.now());
    };
    const forget = [peakCache.onLoaded(more), spectra.onLoaded(more), finishedPictures.onLoaded(more)];
    return () => {
      clearTimeout(timer);
      forget.forEach((stop) => stop());
    };
  }, []);

  // Of what comes later the peaks are read when it is drawn.
  useEffect(
    () => (partId ? peakCache.readAhead(rangesOfSources(usePart.getState().timeline)) : undefined),
    [partId],
  );

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
      staves: stavesOf(timeline),
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
    const finished = mixing?.finished ?? null;
    const ink = { geometry, rateHz, page, timeline, peaks, spectrum, focus, finished };
    rowCache.current.draw(context, ink, rows.firstRow, rows.lastRow, loads);
    drawOverRows(context, { ...ink, live: running, proposals, lineTags, lags, cue, ...rows });
    if (mixing) {
      drawTurns(context, { geometry, page, timeline, turns: mixing.turns, ...rows });
      drawLevelPoints(context, { geometry, page, levels: mixing.levels, ...rows });
    }
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
    lags,
    cue,
    focus,
    mixing,
  ]);

  const reveal = useCallback(
    (frame: number, margin = 0) => {
      const element = scroller.current;
      if (!element) return;
      const { top, bottom } = rowBox(geometry, rowOfFrame(geometry, frame));
      const last = element.scrollTop + element.clientHeight - margin;
      const first = Math.max(0, top - 24);
      if (first < element.scrollTop) element.scrollTo({ top: first });
      // Where it is not high enough for both, the row itself is seen.
      else if (bottom + 16 > last)
        element.scrollTo({ top: Math.min(first, bottom + 16 - element.clientHeight + margin) });
    },
    [geometry, scroller],
  );

  const paintOverlay = useCallback(() => {
    const context = over.current && surface(over.current, size.width, size.height, scrollTop);
    if (!context) return;
    drawOverlay(context, {
      geometry,
      page,
      caret,
      selection,
      recording: live !== null,
      rolling: rolling && {
        at: rolling.fromFrame,
        left: Math.max(0, rolling.until - performance.now() / 1000),
        seconds: rolling.seconds,
        large: counting === 'sweep',
      },
      ...rows,
    });
  }, [geometry, page, caret, selection, live, rolling, counting, rows, scrollTop, size]);
  useTicks(sweepEveryMs, rolling !== null, paintOverlay);

  // Asked twenty times a second: only where the head is about to leave is the page itself measured.
  const follow = useCallback(
    (head: number) => {
      const margin = rowHeight(geometry);
      const { top, bottom } = rowBox(geometry, rowOfFrame(geometry, head));
      if (top - 24 < scrollTop || bottom + 16 > scrollTop + size.height - margin) reveal(head, margin);
    },
    [reveal, geometry, scrollTop, size.height],
  );
  const showLive = useCallback(() => live && setLiveFrames(live.frames), [live]);
  useTicks(inkEveryMs, live !== null, showLive);

  useEffect(() => reveal(caret), [caret, reveal]);

  const pointer = useSheetPointer(geometry, scrollTop, lineTags, mixing?.levels);
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
        aria-label={say`Sheet: ${formatTime(geometry.frames / rateHz)} recorded, caret at ${formatTime(caret / rateHz, true)}`}
        data-testid="sheet"
        data-frames={geometry.frames}
        data-turns={mixing?.turns.length}
        data-levels={mixing?.levels
          .find(({ chosen }) => chosen)
          ?.points.map(({ at, db }) => `${at} ${db}`)
          .join(', ')}
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
        <SheetHead geometry={geometry} scrollTop={scrollTop} live={live} onMove={follow} />
      </Box>
      <Box sx={{ height: Math.max(sheetHeight(geometry), 1) }} />
    </Box>
  );
}

/** What of each source is on the sheet, from its first frame there to its last. */
function rangesOfSources({ tracks, guides = [], mix }: Timeline): SourceRange[] {
  const ranges = new Map<string, { source: string; channel: number; from: number; to: number }>();
  for (const { table } of [...tracks, ...guides])
    for (const piece of table.pieces) {
      if (piece.kind !== 'audio') continue;
      const { source, channel, from, length } = piece;
      const known = ranges.get(`${source}/${channel}`) ?? { source, channel, from, to: from };
      known.from = Math.min(known.from, from);
      known.to = Math.max(known.to, from + length);
      ranges.set(`${source}/${channel}`, known);
    }
  const beds = (mix?.beds ?? []).flatMap(({ clips }) =>
    clips.map(({ source, from, length }) => ({ source, channel: 0, from, to: from + length })),
  );
  return [...ranges.values(), ...beds];
}

/** Peaks of the running take, by the staves it is recorded on. */
function livePicture(live: LiveTake, { tracks }: Timeline, rateHz: number) {
  const staves = new Map(
    live.trackIds.map((id, channel) => [tracks.findIndex((track) => track.id === id), live.peaksOf(channel)]),
  );
  const marks = foundMarks(live, live.frames, rateHz, String);
  return { startFrame: live.startFrame, frames: live.frames, staves, marks };
}
