'use client';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useEffect, useRef } from 'react';
import { formatDb } from '@/core/base/units';
import { LevelColumnReader, type LevelReading } from '@/core/loudness/levels';
import { levels } from '@/state/engine';
import { useSession } from '@/state/session';
import { useTransport } from '@/state/transport';
import { drawLevels } from '../../canvas/drawLevels';
import { surface } from '../../canvas/surface';
import { useSize } from '../../hooks/useSize';
import { usePage } from '../../theme/AppTheme';
import { serif } from '../../theme/theme';

const defaultAim = { min: -18, max: -6 };
const wordColours = {
  Waiting: 'text.secondary',
  Thin: 'text.primary',
  'On target': 'success.main',
  Hot: 'warning.main',
  Clipped: 'error.main',
} as const;

/**
 * The level of the input, sixty times a second, before and while recording. It writes to the page itself: a render of React for each
 * frame would cost more than the drawing.
 */
export function LevelColumn() {
  const { ref: box, size } = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const root = useRef<HTMLDivElement>(null);
  const reader = useRef<LevelColumnReader | null>(null);
  const page = usePage();
  const input = useTransport((state) => state.input);
  const aim = useSession((state) => state.project?.spec.aimPeakDbfs) ?? defaultAim;
  const { min, max } = aim;

  useEffect(() => {
    const current = new LevelColumnReader({ min, max });
    reader.current = current;
    let frame = 0;
    let stopped = false;
    void levels().then((source) => {
      source?.take();
      const next = (now: number) => {
        if (stopped) return;
        const reading = current.read(now / 1000, input === 'open' ? (source?.take() ?? null) : null);
        const context = canvas.current && surface(canvas.current, size.width, size.height);
        if (context) drawLevels(context, { ...size, page, aim: { min, max }, reading });
        if (root.current) write(root.current, reading);
        frame = requestAnimationFrame(next);
      };
      frame = requestAnimationFrame(next);
    });
    return () => {
      stopped = true;
      cancelAnimationFrame(frame);
    };
  }, [min, max, input, page, size]);

  return (
    <Box
      ref={root}
      component="aside"
      aria-label="Level of the input"
      sx={{
        width: 148,
        flexShrink: 0,
        borderLeft: 1,
        borderColor: 'divider',
        display: 'flex',
        flexDirection: 'column',
        p: 1.5,
        pt: 2,
      }}
    >
      <Typography
        data-level="word"
        data-testid="level-word"
        sx={{ fontFamily: serif, fontWeight: 650, fontSize: 21, textAlign: 'center', minHeight: 32 }}
      />
      <Box ref={box} sx={{ flex: 1, minHeight: 160, position: 'relative', my: 1 }}>
        <canvas ref={canvas} style={{ position: 'absolute', width: size.width, height: size.height }} />
      </Box>
      <Reading label="Peak" name="heldDb" />
      <Reading label="Speech" name="speechDb" />
      <Reading label="Room" name="roomDb" />
      <ButtonBase
        onMouseDown={(event) => event.preventDefault()}
        onClick={() => reader.current?.clearClipped()}
        aria-label="Clear the clip count"
        title="Samples at full scale since last cleared. Click to clear."
        sx={{ borderRadius: 1 }}
      >
        <Reading label="Clipped" name="clipped" />
      </ButtonBase>
    </Box>
  );
}

function Reading({ label, name }: { label: string; name: keyof LevelReading }) {
  return (
    <Box
      component="span"
      sx={{ display: 'flex', justifyContent: 'space-between', width: '100%', py: 0.4, fontSize: 13 }}
    >
      <Box component="span" sx={{ color: 'text.secondary' }}>
        {label}
      </Box>
      <Box
        component="span"
        data-level={name}
        data-testid={`level-${name}`}
        sx={{ fontWeight: 650, fontVariantNumeric: 'tabular-nums' }}
      />
    </Box>
  );
}

/** Puts a reading into the elements marked for it; only texts that changed are touched. */
function write(root: HTMLElement, reading: LevelReading) {
  for (const element of root.querySelectorAll<HTMLElement>('[data-level]')) {
    const name = element.dataset.level as keyof LevelReading;
    const value = reading[name];
    const text =
      typeof value === 'string'
        ? value
        : name === 'clipped'
          ? String(value)
          : Number.isFinite(value)
            ? formatDb(value)
            : '–';
    if (element.textContent !== text) element.textContent = text;
    if (name === 'word')
      element.style.color = `var(--mui-palette-${wordColours[reading.word].replace('.', '-')})`;
  }
}
