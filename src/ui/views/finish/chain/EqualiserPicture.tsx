import { say, withinSentence } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { clamp, formatDb } from '@/core/base/units';
import { mostBands, type EqualiserStep } from '@/core/chain/chain';
import type { Band, BandShape } from '@/core/dsp/cookbook';
import { draftStep, setStep } from '@/state/chain/chains';
import { leaveMatch, lookAtSpectrum, takeMatch, useMatching } from '@/state/chain/matching';
import { usePage } from '../../../theme/AppTheme';
import { AddBand, BandSentence } from './BandSentence';
import {
  bounded,
  curveOf,
  dbOf,
  height,
  hertzOf,
  hertzRange,
  inner,
  shapeNames,
  spectrumPath,
  width,
  xOf,
  yOf,
} from './equaliserGeometry';
import { nameHertz } from './hertz';
import { MatchMenu } from './MatchMenu';

/** Where a new band of a shape stands. */
const usualHertz: Readonly<Record<BandShape, number>> = {
  bell: 1000,
  notch: 1000,
  lowShelf: 150,
  highShelf: 6000,
  highPass: 80,
  lowPass: 12_000,
};

interface Props {
  voice: string;
  step: EqualiserStep;
  rateHz: number;
  disabled: boolean;
}

/** The bands of an equaliser over the voice's long-term spectrum: dragged, or changed with the arrow keys. */
export function EqualiserPicture({ voice, step, rateHz, disabled }: Props) {
  const page = usePage();
  const svg = useRef<SVGSVGElement>(null);
  const [chosen, setChosen] = useState(0);
  const drag = useRef<number | null>(null);
  const proposal = useMatching((state) => state.proposal);
  const spectrum = useMatching((state) => state.spectrum);
  const { bands, id } = step;
  const band = bands[Math.min(chosen, bands.length - 1)] as Band | undefined;
  const curve = useMemo(() => curveOf(bands, rateHz), [bands, rateHz]);
  const matched = proposal?.step === id ? proposal : null;
  const known = spectrum?.step === id;
  useEffect(() => {
    if (!known) void lookAtSpectrum(voice, id);
  }, [voice, id, known]);

  const changed = (index: number, changes: Partial<Band>): EqualiserStep => ({
    ...step,
    bands: bands.map((one, i) => (i === index ? bounded({ ...one, ...changes }) : one)),
  });
  const add = (shape: BandShape, hertz: number, gainDb: number) => {
    if (bands.length >= mostBands) return;
    setStep(voice, {
      ...step,
      bands: [
        ...bands,
        bounded({ shape, hertz, gainDb, q: shape === 'notch' ? 8 : shape === 'bell' ? 1 : 0.7 }),
      ],
    });
    setChosen(bands.length);
  };
  const remove = (index: number) => {
    setStep(voice, { ...step, bands: bands.filter((_, i) => i !== index) });
    setChosen(Math.max(0, index - 1));
  };
  const placeOf = (event: PointerEvent | React.MouseEvent) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return { hertz: 1000, gainDb: 0 };
    const [x, y] = [
      ((event.clientX - box.left) / box.width) * width,
      ((event.clientY - box.top) / box.height) * height,
    ];
    return { hertz: hertzOf(x), gainDb: dbOf(y) };
  };
  const onKey = (event: KeyboardEvent, index: number) => {
    const one = bands[index];
    const octave = 2 ** (1 / 12);
    const next: Record<string, Partial<Band>> = {
      ArrowLeft: { hertz: one.hertz / octave },
      ArrowRight: { hertz: one.hertz * octave },
      ArrowUp: event.shiftKey ? { q: one.q + 0.1 } : { gainDb: one.gainDb + 0.5 },
      ArrowDown: event.shiftKey ? { q: one.q - 0.1 } : { gainDb: one.gainDb - 0.5 },
    };
    if (next[event.key]) {
      event.preventDefault();
      setStep(voice, changed(index, next[event.key]));
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      event.stopPropagation();
      remove(index);
    }
  };
  return (
    <Box sx={{ mt: 0.5 }}>
      <Box
        component="svg"
        ref={svg}
        viewBox={`0 0 ${width} ${height}`}
        role="group"
        aria-label={say`Equaliser: bands over the long-term spectrum`}
        onDoubleClick={(event: React.MouseEvent) => {
          if (disabled) return;
          const { hertz, gainDb } = placeOf(event);
          add('bell', hertz, gainDb);
        }}
        sx={{
          width: '100%',
          display: 'block',
          bgcolor: 'background.paper',
          borderRadius: 1,
          touchAction: 'none',
        }}
      >
        {[-6, 0, 6].map((db) => (
          <line
            key={db}
            x1={inner.left}
            x2={inner.right}
            y1={yOf(db)}
            y2={yOf(db)}
            stroke={page.rule}
            strokeWidth={db === 0 ? 1.2 : 0.7}
          />
        ))}
        {[100, 1000, 10_000].map((hertz) => (
          <line
            key={hertz}
            x1={xOf(hertz)}
            x2={xOf(hertz)}
            y1={inner.top}
            y2={inner.bottom}
            stroke={page.rule}
            strokeWidth={0.7}
          />
        ))}
        {[50, 200, 500, 1000, 2000, 5000, 10_000].map((hertz) => (
          <text
            key={hertz}
            x={xOf(hertz)}
            y={height - 4}
            fontSize={9}
            textAnchor="middle"
            fill={page.faintInk}
          >
            {nameHertz(hertz)}
          </text>
        ))}
        {known && spectrum && <path d={spectrumPath(spectrum.bands)} fill={page.aim} stroke="none" />}
        <path d={curve} fill="none" stroke={page.ink} strokeWidth={1.8} />
        {matched && (
          <path
            d={curveOf(matched.bands, rateHz)}
            fill="none"
            stroke={page.blue}
            strokeWidth={1.6}
            strokeDasharray="4 3"
          />
        )}
        {bands.map((one, index) => (
          <circle
            key={index}
            cx={xOf(clamp(one.hertz, hertzRange.from, hertzRange.to))}
            cy={yOf(one.gainDb)}
            r={index === chosen ? 7 : 5.5}
            fill={index === chosen ? page.blue : page.sheet}
            stroke={page.blue}
            strokeWidth={1.8}
            tabIndex={disabled ? -1 : 0}
            role="slider"
            aria-label={say`Band ${index + 1}, ${withinSentence(shapeNames[one.shape])}`}
            aria-valuemin={-18}
            aria-valuemax={18}
            aria-valuenow={one.gainDb}
            aria-valuetext={`${Math.round(one.hertz)} Hz, ${formatDb(one.gainDb)}, Q ${one.q}`}
            style={{ cursor: 'grab' }}
            onFocus={() => setChosen(index)}
            onKeyDown={(event) => !disabled && onKey(event, index)}
            onPointerDown={(event) => {
              if (disabled) return;
              drag.current = index;
              setChosen(index);
              event.currentTarget.setPointerCapture(event.pointerId);
            }}
            onPointerMove={(event) =>
              drag.current === index && draftStep(voice, changed(index, placeOf(event)))
            }
            onPointerUp={(event) => {
              if (drag.current === index) setStep(voice, changed(index, placeOf(event)));
              drag.current = null;
            }}
          />
        ))}
      </Box>
      {matched ? (
        <Box sx={{ fontSize: 13, mt: 0.5 }} role="status">
          {say`The dashed line would bring it near “${matched.name}”: ${matched.bands.length} bands within ±6 dB.`}
          <Box sx={{ display: 'flex', gap: 1, ml: -0.6 }}>
            <Button size="small" onClick={takeMatch}>{say`Take it`}</Button>
            <Button size="small" color="inherit" onClick={leaveMatch}>{say`Leave it`}</Button>
          </Box>
        </Box>
      ) : (
        <Box sx={{ fontSize: 13, mt: 0.5 }}>
          {band && (
            <BandSentence
              band={band}
              disabled={disabled}
              onDraft={(changes) => draftStep(voice, changed(bands.indexOf(band), changes))}
              onChange={(changes) => setStep(voice, changed(bands.indexOf(band), changes))}
              onRemove={() => remove(bands.indexOf(band))}
            />
          )}
          <Box sx={{ display: 'flex', gap: 0.5, ml: -0.6 }}>
            <AddBand
              disabled={disabled || bands.length >= mostBands}
              onAdd={(shape) => add(shape, usualHertz[shape], 0)}
            />
            <MatchMenu voice={voice} stepId={id} disabled={disabled} />
          </Box>
        </Box>
      )}
    </Box>
  );
}
