'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import { formatDb } from '@/core/base/units';
import { LevelColumnReader, type LevelReading } from '@/core/loudness/levels';
import { levels } from '@/state/recording/openInputs';
import { barWidth, drawBar, drawLevels, shownLevels } from '../../canvas/drawLevels';
import { surface } from '../../canvas/surface';
import { useSize } from '../../hooks/useSize';
import { useTicks } from '../../hooks/useTicks';
import type { InkPalette } from '../../theme/palette';
import { usePage } from '../../theme/AppTheme';
import { serif } from '../../theme/theme';

/** The level in a word. */
const levelWords: Readonly<Record<LevelReading['word'], string>> = {
  'No signal': say`No signal`,
  Waiting: say`Waiting`,
  Thin: say`Thin`,
  'On target': say`On target`,
  Hot: say`Hot`,
  Clipped: say`Clipped`,
};

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

const readEveryMs = 50;
/** Numbers that change faster cannot be read. */
const textEvery = 3;

/**
 * The level of one channel, twenty times a second while an input is open. It writes to the page itself, and
 * only what has changed: a render of React each time would cost more than the drawing.
 */
export function LevelBar({ channel, open, aim, compact }: Props) {
  const { ref: box, size } = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const root = useRef<HTMLDivElement>(null);
  const bar = useRef<HTMLCanvasElement>(null);
  const page = usePage();
  const { min, max } = aim;

  // What has been heard, and what was cleared, outlasts a change of the window or of the colours.
  const heard = useMemo(
    () => ({ reader: new LevelColumnReader({ min, max }), source: open ? levels(channel) : null }),
    [channel, min, max, open],
  );
  const writer = useMemo(() => new LevelWriter(size.height, page), [size.height, page]);
  const tick = useCallback(() => {
    const reading = heard.reader.read(performance.now() / 1000, heard.source?.take() ?? null);
    if (root.current) writer.write(root.current, reading);
    if (bar.current) writer.draw(bar.current, reading);
  }, [heard, writer]);
  useTicks(readEveryMs, open, tick);
  useEffect(() => {
    const draw = () => {
      const context = canvas.current && surface(canvas.current, size.width, size.height);
      if (context) drawLevels(context, { ...size, page, aim: { min, max } });
    };
    draw();
    // Drawn once: the letters of the scale may come later than that.
    void document.fonts.ready.then(draw);
  }, [size, page, min, max]);

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
        <canvas ref={bar} style={{ ...middle, height: size.height }} />
      </Box>
      <Reading label={say`Peak`} name="heldDb" compact={compact} />
      <Reading label={say`Speech`} name="speechDb" compact={compact} />
      <Reading label={say`Room`} name="roomDb" compact={compact} />
      <ButtonBase
        onMouseDown={(event) => event.preventDefault()}
        onClick={() => heard.reader.clearClipped()}
        title={say`Samples at full scale since last cleared. Click to clear.`}
        sx={{ borderRadius: 1 }}
      >
        <Reading label={say`Clipped`} name="clipped" compact={compact} />
      </ButtonBase>
    </Box>
  );
}

/** The level of one channel in a word and a number, where there is no room for a bar. */
export function LevelWord({ channel, aim: { min, max } }: Pick<Props, 'channel' | 'aim'>) {
  const root = useRef<HTMLDivElement>(null);
  const page = usePage();
  const heard = useMemo(
    () => ({ reader: new LevelColumnReader({ min, max }), source: levels(channel) }),
    [channel, min, max],
  );
  const writer = useMemo(() => new LevelWriter(0, page), [page]);
  const tick = useCallback(() => {
    const reading = heard.reader.read(performance.now() / 1000, heard.source?.take() ?? null);
    if (root.current) writer.write(root.current, reading);
  }, [heard, writer]);
  useTicks(readEveryMs, true, tick);
  return (
    <Box ref={root} sx={{ display: 'flex', justifyContent: 'center', gap: 2, pt: 1, fontWeight: 650 }}>
      <span data-level="word" data-testid="level-word" role="status" />
      <Box
        component="span"
        data-level="heldDb"
        data-unit="dB"
        sx={{ minWidth: 70, fontVariantNumeric: 'tabular-nums' }}
      />
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
  if (typeof value === 'string') return levelWords[value as LevelReading['word']];
  if (name === 'clipped') return String(value);
  return Number.isFinite(value) ? formatDb(value, unit) : '–';
};

const middle = { position: 'absolute', width: barWidth, left: '50%', marginLeft: -barWidth / 2 } as const;

/** Puts readings on the page, only what has changed of them. */
class LevelWriter {
  private readings = 0;
  private shows = '';
  private readonly texts = new Map<HTMLElement, string>();

  constructor(
    private readonly height: number,
    private readonly page: InkPalette,
  ) {}

  /** The bar. */
  draw(canvas: HTMLCanvasElement, reading: LevelReading): void {
    const shows = `${shownLevels(reading, this.height).join(' ')} ${reading.word}`;
    if (shows === this.shows) return;
    const context = surface(canvas, barWidth, this.height);
    if (!context) return;
    drawBar(context, this.height, this.page, reading);
    this.shows = shows;
  }

  /** Into the elements that are marked for it. */
  write(root: HTMLElement, reading: LevelReading): void {
    if (this.readings++ % textEvery !== 0) return;
    for (const element of root.querySelectorAll<HTMLElement>('[data-level]')) {
      const name = element.dataset.level as keyof LevelReading;
      const text = shown(reading[name], name, element.dataset.unit ?? '');
      if (this.texts.get(element) === text) continue;
      this.texts.set(element, text);
      element.textContent = text;
      if (name === 'word')
        element.style.color = `var(--mui-palette-${wordColours[reading.word].replace('.', '-')})`;
    }
  }
}
