import { decimal } from '@/texts/say';
import Box from '@mui/material/Box';
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { clamp } from '@/core/base/units';

interface Props {
  label: string;
  value: number;
  /** What stands behind the number. */
  unit: string;
  step: number;
  lowest: number;
  highest: number;
  decimals?: number;
  disabled?: boolean;
  onChange: (value: number) => void;
  /** A change on its way, while it is dragged. */
  onDraft?: (value: number) => void;
}

/** So far a pointer is dragged for one step. */
const pixelsPerStep = 5;
/** Further than this a press is a drag. */
const dragPixels = 3;

/**
 * A number in a sentence: changed where it stands, by typing, with the arrow keys (Page up and down take ten
 * steps) or by dragging it up and down.
 */
export function ValueInPlace(props: Props) {
  const { label, value, unit, step, lowest, highest, decimals = 1, disabled, onChange, onDraft } = props;
  const [typed, setTyped] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const keyed = useRef<number | null>(null);
  const drag = useRef<{ y: number; from: number; moved: boolean; last?: number } | null>(null);
  const bounded = (wanted: number) => clamp(Number(wanted.toFixed(decimals)), lowest, highest);
  const told = (number: number) => decimal(number, decimals).replace('-', '−');
  const shown = typed ?? told(value);
  const take = (wanted: number) => {
    setTyped(null);
    const next = bounded(wanted);
    if (Number.isFinite(next) && next !== value) onChange(next);
  };
  const takeTyped = () => {
    if (typed === null) return;
    const number = Number(typed.replace('−', '-').replace(',', '.').trim());
    if (typed.trim() === '' || !Number.isFinite(number)) setTyped(null);
    else take(number);
  };
  const stepsOf: Readonly<Record<string, number>> = { ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10 };
  const onKeyDown = (event: KeyboardEvent) => {
    const steps = stepsOf[event.key];
    if (steps !== undefined) {
      event.preventDefault();
      const next = bounded((keyed.current ?? value) + steps * step);
      if (!onDraft) return take(next);
      // A key that is held down is one change, which ends with it.
      keyed.current = next;
      setTyped(told(next));
      onDraft(next);
    } else if (event.key === 'Enter') takeTyped();
    else if (event.key === 'Escape') {
      setTyped(null);
      input.current?.blur();
    }
  };
  /** What was heard and drawn on its way is taken, also where that is what it was before. */
  const takeDraft = (next: number) => {
    setTyped(null);
    onChange(next);
  };
  const takeKeyed = () => {
    const next = keyed.current;
    keyed.current = null;
    if (next !== null) takeDraft(next);
  };
  const onPointerMove = (event: PointerEvent<HTMLInputElement>) => {
    const doing = drag.current;
    if (!doing) return;
    const away = doing.y - event.clientY;
    if (Math.abs(away) > dragPixels && !doing.moved) {
      doing.moved = true;
      event.currentTarget.setPointerCapture(event.pointerId);
    }
    if (!doing.moved) return;
    const next = bounded(doing.from + Math.round(away / pixelsPerStep) * step);
    doing.last = next;
    setTyped(told(next));
    onDraft?.(next);
  };
  return (
    <Box component="span" sx={{ whiteSpace: 'nowrap' }}>
      <Box
        component="input"
        ref={input}
        type="text"
        inputMode="decimal"
        role="spinbutton"
        aria-label={label}
        aria-valuenow={value}
        aria-valuemin={lowest}
        aria-valuemax={highest}
        aria-valuetext={`${told(value)} ${unit}`.trim()}
        disabled={disabled}
        value={shown}
        onChange={(event: { target: { value: string } }) => setTyped(event.target.value)}
        onFocus={() => input.current?.select()}
        onBlur={() => (keyed.current === null ? takeTyped() : takeKeyed())}
        onKeyDown={onKeyDown}
        onKeyUp={takeKeyed}
        onPointerDown={(event: PointerEvent<HTMLInputElement>) => {
          drag.current = { y: event.clientY, from: value, moved: false };
        }}
        onPointerMove={onPointerMove}
        onPointerUp={() => {
          const last = drag.current?.last;
          drag.current = null;
          if (last !== undefined && onDraft) takeDraft(last);
          else if (last !== undefined) take(last);
        }}
        sx={{
          fieldSizing: 'content',
          '@supports not (field-sizing: content)': { width: `${shown.length}ch` },
          p: 0,
          border: 0,
          borderBottom: '1px dotted',
          borderColor: 'info.main',
          borderRadius: 0,
          bgcolor: 'transparent',
          color: 'info.main',
          font: 'inherit',
          fontWeight: 600,
          fontVariantNumeric: 'tabular-nums',
          cursor: 'ns-resize',
        }}
      />
      {unit && (
        <Box component="span" sx={{ color: 'info.main', fontWeight: 600 }}>
          {' '}
          {unit}
        </Box>
      )}
    </Box>
  );
}
