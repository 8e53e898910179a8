import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { clamp, formatDb } from '@/core/base/units';
import { equaliserSections } from '@/core/chain/chained';
import { bandSettings } from '@/core/chain/settings';
import { mostBands, type EqualiserStep } from '@/core/chain/chain';
import { responseDb, type Band, type BandShape } from '@/core/dsp/cookbook';
import { thirdOctavesHz } from '@/core/dsp/longTermSpectrum';
import { draftStep, setStep } from '@/state/chain/chains';
import { leaveMatch, lookAtSpectrum, takeMatch, useMatching } from '@/state/chain/matching';
import { ChoiceInPlace } from '../../../components/ChoiceInPlace';
import { ValueInPlace } from '../../../components/ValueInPlace';
import { usePage } from '../../../theme/AppTheme';
import { nameHertz } from './hertz';
import { MatchMenu } from './MatchMenu';

const width = 272;
const height = 150;
const inner = { left: 2, right: 270, top: 6, bottom: 134 } as const;
const hertzRange = { from: 30, to: 18_000 } as const;
/** The picture reaches so far up and down; further by typing. */
const mostDb = 12;
/** Levels of the spectrum behind the curve. */
const spectrumDb = { top: -20, bottom: -100 } as const;
const points = 134;

const xOf = (hertz: number) =>
  inner.left +
  (Math.log(hertz / hertzRange.from) / Math.log(hertzRange.to / hertzRange.from)) *
    (inner.right - inner.left);
const hertzOf = (x: number) =>
  hertzRange.from *
  (hertzRange.to / hertzRange.from) ** clamp((x - inner.left) / (inner.right - inner.left), 0, 1);
const middle = (inner.top + inner.bottom) / 2;
const yOf = (db: number) => middle - (clamp(db, -mostDb, mostDb) / mostDb) * ((inner.bottom - inner.top) / 2);
const dbOf = (y: number) =>
  clamp(((middle - y) / ((inner.bottom - inner.top) / 2)) * mostDb, -mostDb, mostDb);

export const shapeNames: Readonly<Record<BandShape, string>> = {
  bell: 'Bell',
  lowShelf: 'Low shelf',
  highShelf: 'High shelf',
  highPass: 'High-pass',
  lowPass: 'Low-pass',
  notch: 'Notch',
};
const hasGain = (shape: BandShape) => shape === 'bell' || shape === 'lowShelf' || shape === 'highShelf';

const rounded = (hertz: number) => Number(hertz.toPrecision(hertz < 1000 ? 2 : 3));
const bounded = (band: Band): Band => ({
  ...band,
  hertz: clamp(rounded(band.hertz), bandSettings.hertz.from, bandSettings.hertz.to),
  gainDb: hasGain(band.shape)
    ? clamp(Math.round(2 * band.gainDb) / 2, bandSettings.gainDb.from, bandSettings.gainDb.to)
    : 0,
  q: clamp(Math.round(10 * band.q) / 10, bandSettings.q.from, bandSettings.q.to),
});

function curveOf(bands: readonly Band[], rateHz: number): string {
  const sections = equaliserSections({ bands }, rateHz);
  return Array.from({ length: points }, (_, i) => {
    const x = inner.left + (i / (points - 1)) * (inner.right - inner.left);
    return `${i === 0 ? 'M' : 'L'}${x.toFixed(1)} ${yOf(responseDb(sections, hertzOf(x), rateHz)).toFixed(1)}`;
  }).join('');
}

function spectrumPath(bands: readonly number[]): string {
  const y = (db: number) => {
    const share = (spectrumDb.top - Math.max(spectrumDb.bottom, db)) / (spectrumDb.top - spectrumDb.bottom);
    return inner.top + clamp(share, 0, 1) * (inner.bottom - inner.top);
  };
  const corners = bands.flatMap((db, band) => {
    const hertz = thirdOctavesHz[band];
    return hertz < hertzRange.from || hertz > hertzRange.to
      ? []
      : [`${xOf(hertz).toFixed(1)} ${y(db).toFixed(1)}`];
  });
  return corners.length === 0
    ? ''
    : `M${corners.join('L')}L${inner.right} ${inner.bottom}L${inner.left} ${inner.bottom}Z`;
}

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
        aria-label="Equaliser: bands over the long-term spectrum"
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
            aria-label={`Band ${index + 1}, ${shapeNames[one.shape].toLowerCase()}`}
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
          The dashed line would bring it near “{matched.name}”: {matched.bands.length} bands within ±6 dB.
          <Box sx={{ display: 'flex', gap: 1, ml: -0.6 }}>
            <Button size="small" onClick={takeMatch}>
              Take it
            </Button>
            <Button size="small" color="inherit" onClick={leaveMatch}>
              Leave it
            </Button>
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
              onAdd={(shape) =>
                add(
                  shape,
                  shape === 'lowShelf'
                    ? 150
                    : shape === 'highShelf'
                      ? 6000
                      : shape === 'highPass'
                        ? 80
                        : shape === 'lowPass'
                          ? 12_000
                          : 1000,
                  0,
                )
              }
            />
            <MatchMenu voice={voice} stepId={id} disabled={disabled} />
          </Box>
        </Box>
      )}
    </Box>
  );
}

interface BandProps {
  band: Band;
  disabled: boolean;
  onDraft: (changes: Partial<Band>) => void;
  onChange: (changes: Partial<Band>) => void;
  onRemove: () => void;
}

function BandSentence({ band, disabled, onDraft, onChange, onRemove }: BandProps) {
  const number = (field: 'hertz' | 'gainDb' | 'q', label: string, unit: string, decimals: number) => (
    <ValueInPlace
      label={label}
      value={band[field]}
      unit={unit}
      step={bandSettings[field].by}
      decimals={decimals}
      lowest={bandSettings[field].from}
      highest={bandSettings[field].to}
      disabled={disabled}
      onDraft={(value) => onDraft({ [field]: value })}
      onChange={(value) => onChange({ [field]: value })}
    />
  );
  return (
    <Box>
      <ChoiceInPlace
        label="Shape of the band"
        value={band.shape}
        choices={Object.entries(shapeNames).map(([key, name]) => ({ key, name }))}
        disabled={disabled}
        onChange={(key) => onChange({ shape: key as BandShape })}
      />{' '}
      at {number('hertz', 'Frequency of the band', 'Hz', 0)}
      {hasGain(band.shape) && <>, {number('gainDb', 'Gain of the band', 'dB', 1)}</>}, Q{' '}
      {number('q', 'Q of the band', '', 1)}{' '}
      <Button size="small" color="inherit" disabled={disabled} onClick={onRemove} sx={{ minWidth: 0, py: 0 }}>
        Remove
      </Button>
    </Box>
  );
}

function AddBand({ disabled, onAdd }: { disabled: boolean; onAdd: (shape: BandShape) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        size="small"
        disabled={disabled}
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        + Add a band
      </Button>
      <Menu anchorEl={anchor} open={!!anchor} onClose={() => setAnchor(null)}>
        {(Object.keys(shapeNames) as BandShape[]).map((shape) => (
          <MenuItem
            key={shape}
            dense
            onClick={() => {
              setAnchor(null);
              onAdd(shape);
            }}
          >
            {shapeNames[shape]}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
