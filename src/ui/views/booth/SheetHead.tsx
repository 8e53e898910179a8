'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import { useCallback, useEffect, useRef } from 'react';
import type { LiveTake } from '@/state/hearing/liveTake';
import { headFrame, useTransport } from '@/state/hearing/transport';
import {
  contentWidth,
  margins,
  rowBox,
  rowOfFrame,
  xOfFrame,
  type SheetGeometry,
} from '../../canvas/sheetGeometry';
import { circledNumber } from '../../components/circledNumber';
import { useTicks } from '../../hooks/useTicks';
import { usePage } from '../../theme/AppTheme';

/** While something is recorded the head is moved so often. */
const headEveryMs = 50;

/** What is being recorded: “take ③”, or “2 tracks · take ③”. */
const told = ({ trackIds, take }: LiveTake) =>
  say`recording ${trackIds.length > 1 ? say`${trackIds.length} tracks · ` : ''}take ${circledNumber(take)}`;

interface Props {
  geometry: SheetGeometry;
  scrollTop: number;
  live: LiveTake | null;
  /** Told where the head is whenever it has moved. */
  onMove: (frame: number) => void;
}

/**
 * The frame heard or recorded now: a line that is moved over the sheet, so that nothing of the sheet has to
 * be drawn for it.
 */
export function SheetHead({ geometry, scrollTop, live, onMove }: Props) {
  const head = useRef<HTMLDivElement>(null);
  const label = useRef<HTMLSpanElement>(null);
  const page = usePage();
  const mode = useTransport((state) => state.mode);
  const { top, bottom } = rowBox(geometry, 0);
  const text = live ? told(live) : '';

  const move = useCallback(() => {
    const element = head.current;
    if (!element) return;
    const frame = headFrame();
    element.style.visibility = frame === null ? 'hidden' : 'visible';
    if (frame === null) return;
    const row = rowOfFrame(geometry, frame);
    const x = xOfFrame(geometry, frame, row);
    element.style.transform = `translate(${x - 1}px, ${rowBox(geometry, row).top - scrollTop}px)`;
    // The words stand on the other side where they would run out of the sheet.
    const end = margins.left + contentWidth(geometry) + margins.right;
    const fits = x + 10 + widthOf(text) < end;
    if (label.current) label.current.style.translate = fits ? '11px' : 'calc(-100% - 9px)';
    onMove(frame);
  }, [geometry, scrollTop, text, onMove]);

  useEffect(() => {
    if (mode !== 'playing') return;
    let next = requestAnimationFrame(function again() {
      move();
      next = requestAnimationFrame(again);
    });
    return () => cancelAnimationFrame(next);
  }, [move, mode]);
  useTicks(headEveryMs, mode !== 'idle' && mode !== 'playing', move);

  const colour = live ? page.vermilion : page.blue;
  return (
    <Box
      ref={head}
      data-testid="head"
      sx={{ position: 'absolute', width: 2, pointerEvents: 'none', willChange: 'transform', top: 0, left: 0 }}
      style={{ height: bottom - top, background: colour }}
    >
      {live && (
        <>
          <Box sx={dot} style={{ background: colour }} />
          <Box component="span" ref={label} sx={words} style={{ color: colour }}>
            {text}
          </Box>
        </>
      )}
    </Box>
  );
}

const dot = { position: 'absolute', left: -3, top: -4, width: 8, height: 8, borderRadius: '50%' } as const;
const words = {
  position: 'absolute',
  left: 0,
  top: -9,
  fontSize: 12,
  fontWeight: 600,
  lineHeight: '20px',
  whiteSpace: 'nowrap',
} as const;

/** About as wide as these words are: no layout is asked for while something is recorded. */
const widthOf = (text: string) => text.length * 6.5;
