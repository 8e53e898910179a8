'use client';
import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useMemo, useRef, useState, type PointerEvent, type WheelEvent } from 'react';
import { formatTime } from '@/core/base/units';
import type { SheetClock } from '@/core/timeline/clock';
import { heardTable } from '@/core/timeline/heard';
import { cutsOf } from '@/core/timeline/joints';
import { joinAt } from '@/core/timeline/joins';
import type { PieceTable } from '@/core/timeline/pieces';
import { clockOf } from '@/core/timeline/timeline';
import {
  dragJoint,
  dragStrike,
  loupeSamples,
  loupeTable,
  setJoinAt,
  sourceFrames,
} from '@/state/sheet/loupe';
import { select, setCaret, usePart } from '@/state/sheet/part';
import { scrub } from '@/state/hearing/playing';
import { joinLengths, useProject } from '@/state/project/openProject';
import { zeroCrossing } from '@/state/sheet/snapping';
import { spectra } from '@/state/pictures/spectra';
import { useStaveFocus } from '@/state/sheet/staveFocus';
import { headFrame, useTransport } from '@/state/hearing/transport';
import { loupeSecondsChoices, setView, stepOf, useView } from '@/state/page/view';
import { drawLoupe } from '../../canvas/drawLoupe';
import { spectrumPen } from '../../canvas/spectrumInk';
import { surface } from '../../canvas/surface';
import { useSize } from '../../hooks/useSize';
import { usePage } from '../../theme/AppTheme';

const grabPixels = 7;

interface Audio {
  table: PieceTable;
  from: number;
  to: number;
  samples: Float32Array;
}

type Cut = { from: number; to: number };
type Drag =
  { kind: 'scrub' } | { kind: 'joint' | 'from' | 'to' | 'both' | 'length'; cut: Cut; start: number };

/** A magnified strip around the caret: joins are moved here, and what is dragged across is heard. */
export function Loupe() {
  const { ref, size } = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const page = usePage();
  const timeline = usePart((state) => state.timeline);
  const caret = usePart((state) => state.caret);
  const selection = usePart((state) => state.selection);
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const seconds = useView((state) => state.loupeSeconds);
  const picture = useView((state) => state.loupePicture);
  const mode = useTransport((state) => state.mode);
  const focus = useStaveFocus((state) => state.track);
  const [audio, setAudio] = useState<Audio | null>(null);
  const [loads, setLoads] = useState(0);
  const drag = useRef<Drag | null>(null);

  const frames = Math.round(seconds * rateHz);
  const from = caret - Math.floor(frames / 2);
  const framesPerPixel = frames / Math.max(1, size.width);
  const table = useMemo(() => loupeTable(timeline, focus), [timeline, focus]);
  const cuts = useMemo(() => cutsOf(timeline, table), [timeline, table]);
  const clock = clockOf(timeline);

  useEffect(() => spectra.onLoaded(() => setLoads((count) => count + 1)), []);
  useEffect(() => {
    let current = true;
    void loupeSamples(table, from, from + frames + 1).then((samples) => {
      if (current) setAudio({ table, from, to: from + frames + 1, samples });
    });
    return () => {
      current = false;
    };
  }, [table, from, frames]);

  useEffect(() => {
    const paint = () => {
      const context = canvas.current && surface(canvas.current, size.width, size.height);
      if (!context || size.width === 0) return;
      const pen = picture === 'spectrum' ? spectrumPen(page, framesPerPixel) : null;
      drawLoupe(context, {
        ...size,
        page,
        from,
        framesPerPixel,
        table,
        clock,
        samples: audio?.samples ?? new Float32Array(0),
        samplesFrom: audio?.from ?? from,
        caret,
        selection,
        head: headFrame(),
        joins: joinLengths(),
        lengths: sourceFrames,
        spectrum: pen && ((target) => drawSpectra(target, pen, table, clock, from, framesPerPixel, size)),
      });
    };
    paint();
    if (mode !== 'playing') return;
    let frame = requestAnimationFrame(function next() {
      paint();
      frame = requestAnimationFrame(next);
    });
    return () => cancelAnimationFrame(frame);
  }, [size, page, from, framesPerPixel, table, clock, audio, caret, selection, mode, picture, loads]);

  const near = useMemo(() => {
    const inside = cuts.filter((cut) => cut.to >= from && cut.from <= from + frames);
    const away = (cut: Cut) => Math.min(Math.abs(cut.from - caret), Math.abs(cut.to - caret));
    return inside.reduce<Cut | null>((best, cut) => (best && away(best) <= away(cut) ? best : cut), null);
  }, [cuts, from, frames, caret]);

  const frameAt = (event: PointerEvent<HTMLCanvasElement>) => {
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    const raw = Math.round(from + x * framesPerPixel);
    if (event.altKey || !audio) return raw;
    return (
      zeroCrossing(audio.samples, raw - audio.from, Math.round(grabPixels * framesPerPixel)) + audio.from
    );
  };

  const grabbed = (event: PointerEvent<HTMLCanvasElement>): Drag => {
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    const frame = from + x * framesPerPixel;
    const within = (place: number) => Math.abs(place - frame) <= grabPixels * framesPerPixel;
    const start = Math.round(frame);
    for (const cut of cuts) {
      if (cut.from === cut.to && within(cut.from))
        return { kind: event.shiftKey ? 'length' : 'joint', cut, start };
      if (cut.to > cut.from && within(cut.from))
        return { kind: event.shiftKey ? 'both' : 'from', cut, start };
      if (cut.to > cut.from && within(cut.to)) return { kind: event.shiftKey ? 'both' : 'to', cut, start };
    }
    return { kind: 'scrub' };
  };

  const onPointerDown = (event: PointerEvent<HTMLCanvasElement>) => {
    if (event.button !== 0 || useTransport.getState().mode !== 'idle') return;
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = grabbed(event);
    if (drag.current.kind === 'scrub') void scrub(frameAt(event));
  };
  const onPointerMove = (event: PointerEvent<HTMLCanvasElement>) => {
    if (drag.current?.kind === 'scrub') void scrub(frameAt(event));
    else if (!drag.current)
      event.currentTarget.style.cursor = grabbed(event).kind === 'scrub' ? 'text' : 'ew-resize';
  };
  const onPointerUp = (event: PointerEvent<HTMLCanvasElement>) => {
    const doing = drag.current;
    drag.current = null;
    if (!doing) return;
    const frame = frameAt(event);
    if (doing.kind === 'scrub') {
      select(frame, frame);
      return setCaret(frame);
    }
    const by = frame - doing.start;
    if (by === 0) return;
    if (doing.kind === 'joint') dragJoint(doing.cut.from, by);
    else if (doing.kind === 'length') setJoinAt(doing.cut.to, 2 * Math.abs(by), 'power');
    else dragStrike(doing.cut, doing.kind, by);
  };
  const onWheel = (event: WheelEvent) => {
    const next = stepOf(loupeSecondsChoices, seconds, event.deltaY > 0 ? 1 : -1);
    if (next !== seconds) setView({ loupeSeconds: next });
  };

  return (
    <Box
      component="section"
      aria-label={say`Loupe`}
      sx={{
        height: 158,
        flexShrink: 0,
        borderTop: 1,
        borderColor: 'divider',
        bgcolor: 'page.wash',
        display: 'flex',
        flexDirection: 'column',
      }}
    >
      <Box
        sx={{ display: 'flex', alignItems: 'center', px: 2, pt: 0.5, fontSize: 12, color: 'text.secondary' }}
        onMouseDown={(event) => event.preventDefault()}
      >
        <span data-testid="loupe-title">{titleOf(near, heardTable(table, clock), clock, rateHz)}</span>
        <Box sx={{ flex: 1 }} />
        <Small
          label={say`Nearer`}
          onClick={() => setView({ loupeSeconds: stepOf(loupeSecondsChoices, seconds, -1) })}
        >
          −
        </Small>
        <span>{seconds < 1 ? `${seconds * 1000} ms` : `${seconds} s`}</span>
        <Small
          label={say`Further`}
          onClick={() => setView({ loupeSeconds: stepOf(loupeSecondsChoices, seconds, 1) })}
        >
          +
        </Small>
        <Small
          label={picture === 'wave' ? say`Show the spectrum in the loupe` : say`Show the wave in the loupe`}
          onClick={() => useView.setState({ loupePicture: picture === 'wave' ? 'spectrum' : 'wave' })}
        >
          {picture === 'wave' ? say`Spectrum` : say`Wave`}
        </Small>
      </Box>
      <Box ref={ref} sx={{ flex: 1, minHeight: 0, mx: 2, position: 'relative' }} onWheel={onWheel}>
        <canvas
          ref={canvas}
          data-testid="loupe"
          style={{ position: 'absolute', width: size.width, height: size.height, touchAction: 'none' }}
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
        />
      </Box>
    </Box>
  );
}

function drawSpectra(
  context: CanvasRenderingContext2D,
  pen: ReturnType<typeof spectrumPen>,
  table: PieceTable,
  clock: SheetClock,
  from: number,
  framesPerPixel: number,
  { width, height }: { width: number; height: number },
) {
  const first = Math.max(0, Math.floor(from));
  const last = Math.min(table.frames, Math.ceil(from + width * framesPerPixel));
  if (last <= first) return;
  for (const [ranges, alpha] of [
    [clock.heardIn({ from: first, to: last }), 1] as const,
    [clock.struckIn({ from: first, to: last }), 0.35] as const,
  ]) {
    context.globalAlpha = alpha;
    for (const range of ranges) {
      let at = range.from;
      for (const piece of table.slice(range.from, range.to)) {
        const x = (at - from) / framesPerPixel;
        const box = { x, width: piece.length / framesPerPixel, top: 8, height: height - 16 };
        if (piece.kind === 'audio')
          pen(context, piece.source, piece.channel, piece.from, piece.from + piece.length, box);
        at += piece.length;
      }
    }
  }
  context.globalAlpha = 1;
}

/** What the loupe is over: the join nearest the caret, or nothing. */
function titleOf(cut: Cut | null, heard: PieceTable, clock: SheetClock, rateHz: number): string {
  if (!cut) return say`Loupe · drag across to hear`;
  const index = heard.indexAt(clock.sheetToHeard(cut.to));
  const left = heard.pieces[index - 1];
  const right = heard.pieces[index];
  const at = formatTime(cut.to / rateHz, true);
  if (!left || !right) return say`Loupe · edge at ${at}`;
  const join = joinAt(left, right, 0, joinLengths(), sourceFrames);
  const length = join ? ((join.rising.to - join.rising.from) / rateHz) * 1000 : 0;
  const what =
    cut.to > cut.from ? say`${decimal((cut.to - cut.from) / rateHz, 2)} s struck, join` : say`join`;
  const how =
    cut.to > cut.from ? say`drag its edges, with Shift both` : say`drag the joint, with Shift its length`;
  return say`Loupe · ${what} at ${at} · crossfade ${decimal(length, 0)} ms · ${how}`;
}

function Small({ label, onClick, children }: { label: string; onClick: () => void; children: string }) {
  return (
    <Button
      size="small"
      color="inherit"
      onClick={onClick}
      aria-label={label}
      title={label}
      sx={{ minWidth: 28, py: 0, px: 0.75, fontSize: 12 }}
    >
      {children}
    </Button>
  );
}
