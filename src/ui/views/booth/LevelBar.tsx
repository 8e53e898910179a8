'use client';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useEffect, useRef } from 'react';
import { formatDb } from '@/core/base/units';
import { LevelColumnReader, type LevelReading } from '@/core/loudness/levels';
import { levels } from '@/state/recording/openInputs';
import { drawLevels } from '../../canvas/drawLevels';
import { surface } from '../../canvas/surface';
import { useSize } from '../../hooks/useSize';
import { usePage } from '../../theme/AppTheme';
import { serif } from '../../theme/theme';

const wordColours = {
  'No signal': 'error.main',
  Waiting: 'text.secondary',
  Thin: 'text.primary',
  'On target': 'success.main',
  Hot: 'warning.main',
  Clipped: 'error.main',
} as const;

interface Props {
  /** Of the input. */
  channel: number;
  open: boolean;
  aim: { min: number; max: number };
  /** Beside others: numbers without their names. */
  compact: boolean;
}

/**
 * The level of one channel, sixty times a second. It writes to the page itself: a render of React for each
 * frame would cost more than the drawing.
 */
export function LevelBar({ channel, open, aim, compact }: Props) {
  const { ref: box, size } = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const root = useRef<HTMLDivElement>(null);
  const reader = useRef<LevelColumnReader | null>(null);
  const page = usePage();
  const { min, max } = aim;

  useEffect(() => {
    const current = new LevelColumnReader({ min, max });
    reader.current = current;
    let frame = 0;
    const source = levels(channel);
    const next = (now: number) => {
      const reading = current.read(now / 1000, open ? (source?.take() ?? null) : null);
      const context = canvas.current && surface(canvas.current, size.width, size.height);
      if (context) drawLevels(context, { ...size, page, aim: { min, max }, reading });
      if (root.current) write(root.current, reading);
      frame = requestAnimationFrame(next);
    };
    frame = requestAnimationFrame(next);
    return () => cancelAnimationFrame(frame);
  }, [channel, min, max, open, page, size]);

  return (
    <Box ref={root} sx={{ flex: 1, display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      <Typography
        data-level="word"
        data-testid="level-word"
        role="status"
        sx={{
          fontFamily: serif,
          fontWeight: 650,
          fontSize: compact ? 16 : 21,
          textAlign: 'center',
          minHeight: compact ? 26 : 32,
        }}
      />
      <Box ref={box} sx={{ flex: 1, minHeight: 120, position: 'relative', my: 1 }}>
        <canvas ref={canvas} style={{ position: 'absolute', width: size.width, height: size.height }} />
      </Box>
      <Reading label="Peak" name="heldDb" compact={compact} />
      <Reading label="Speech" name="speechDb" compact={compact} />
      <Reading label="Room" name="roomDb" compact={compact} />
      <ButtonBase
        onMouseDown={(event) => event.preventDefault()}
        onClick={() => reader.current?.clearClipped()}
        title="Samples at full scale since last cleared. Click to clear."
        sx={{ borderRadius: 1 }}
      >
        <Reading label="Clipped" name="clipped" compact={compact} />
      </ButtonBase>
    </Box>
  );
}

function Reading({ label, name, compact }: { label: string; name: keyof LevelReading; compact: boolean }) {
  return (
    <Box
      component="span"
      sx={{
        display: 'flex',
        justifyContent: 'space-between',
        gap: 0.5,
        width: '100%',
        py: 0.4,
        fontSize: compact ? 11.5 : 13,
      }}
    >
      <Box component="span" sx={{ color: 'text.secondary' }}>
        {label}
      </Box>
      <Box
        component="span"
        data-level={name}
        data-testid={`level-${name}`}
        data-unit={compact ? '' : 'dB'}
        sx={{ fontWeight: 650, fontVariantNumeric: 'tabular-nums' }}
      />
    </Box>
  );
}

const shown = (value: number | string, name: keyof LevelReading, unit: string) => {
  if (typeof value === 'string') return value;
  if (name === 'clipped') return String(value);
  return Number.isFinite(value) ? formatDb(value, unit) : '–';
};

/** Puts a reading into the elements marked for it; only texts that changed are touched. */
function write(root: HTMLElement, reading: LevelReading) {
  for (const element of root.querySelectorAll<HTMLElement>('[data-level]')) {
    const name = element.dataset.level as keyof LevelReading;
    const text = shown(reading[name], name, element.dataset.unit ?? '');
    if (element.textContent !== text) element.textContent = text;
    if (name === 'word') {
      element.style.color = `var(--mui-palette-${wordColours[reading.word].replace('.', '-')})`;
    }
  }
}
