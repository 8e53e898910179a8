'use client';
import { decimal } from '@/texts/say';
import Box from '@mui/material/Box';
import { useEffect, useRef } from 'react';

/** The sweep crosses in so many seconds, and arrives where the line begins. */
const sweepSeconds = 3;

/** Seconds until a line begins, and until it ends; negative afterwards. */
export interface Left {
  readonly toIn: number;
  readonly toOut: number;
}

interface Props {
  /** Asked with each frame of the screen; null while nobody knows. */
  left: () => Left | null;
  sweep: boolean;
  /** Nothing is recorded. */
  dry?: boolean;
  /** It is drawn on a picture and not on paper. */
  onPicture?: boolean;
}

/**
 * Counts the talent in: a line that crosses from the left and arrives on the right as the line begins, the
 * seconds until then; afterwards how much of the line is left. It is moved with each frame of the screen.
 */
export function Sweep({ left: leftNow, sweep, dry = false, onPicture = false }: Props) {
  const line = useRef<HTMLDivElement>(null);
  const count = useRef<HTMLDivElement>(null);
  const rest = useRef<HTMLDivElement>(null);
  const seconds = useRef<HTMLDivElement>(null);

  useEffect(() => {
    const view = count.current?.ownerDocument.defaultView ?? window;
    let next = view.requestAnimationFrame(function again() {
      next = view.requestAnimationFrame(again);
      const left = leftNow();
      const toIn = left?.toIn ?? Infinity;
      const length = Math.max(left ? left.toOut - left.toIn : 1, 0.001);
      const share = Math.min(1, Math.max(0, 1 - toIn / sweepSeconds));
      if (line.current) {
        line.current.style.visibility = toIn > 0 && toIn < sweepSeconds ? 'visible' : 'hidden';
        line.current.style.transform = `translateX(${(share - 1) * 100}%)`;
      }
      if (count.current) count.current.textContent = toIn > 0 && toIn < 100 ? String(Math.ceil(toIn)) : '';
      const toOut = Math.max(0, left?.toOut ?? 0);
      const speaking = toIn <= 0;
      if (rest.current) {
        rest.current.style.visibility = speaking ? 'visible' : 'hidden';
        rest.current.style.transform = `scaleX(${Math.min(1, toOut / length)})`;
      }
      if (seconds.current)
        seconds.current.textContent = speaking && toOut > 0 ? `${decimal(toOut, 1)} s` : '';
    });
    return () => view.cancelAnimationFrame(next);
  }, [leftNow]);

  return (
    <Box aria-hidden sx={{ position: 'absolute', inset: 0, pointerEvents: 'none' }}>
      {sweep && (
        <Box
          ref={line}
          sx={{
            position: 'absolute',
            inset: 0,
            borderRight: '3px solid',
            borderColor: onPicture ? '#fff' : 'primary.main',
          }}
          style={{ visibility: 'hidden' }}
        />
      )}
      <Box
        ref={count}
        data-testid="cue-count"
        sx={{ position: 'absolute', left: 18, top: 8, fontSize: 38, fontWeight: 700, lineHeight: 1.1 }}
      />
      <Box
        ref={seconds}
        data-testid="cue-rest"
        sx={{ position: 'absolute', right: 16, bottom: 10, fontSize: 17, fontVariantNumeric: 'tabular-nums' }}
      />
      <Box
        ref={rest}
        sx={{
          position: 'absolute',
          left: 0,
          right: 0,
          bottom: 0,
          height: 4,
          bgcolor: dry ? 'secondary.main' : 'primary.main',
          transformOrigin: 'left',
        }}
        style={{ visibility: 'hidden' }}
      />
    </Box>
  );
}
