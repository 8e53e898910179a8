'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import type { KeyboardEvent } from 'react';
import { secondsPerRowChoices, setView, speedChoices, staveScaleChoices, useView } from '@/state/page/view';
import { CommandItem } from '../../../commands/CommandItem';
import { Heading, StripMenu } from './StripMenu';

const rowLength = (seconds: number) => (seconds < 60 ? `${seconds} s` : `${seconds / 60} min`);

/** How much a row shows, how high, and as what; how fast it is played. */
export function LookMenu() {
  const { secondsPerRow, staveScale, picture, loupe, speed, loop } = useView();
  const speedSign = `${speed === 1 ? '' : ` · ${speed}×`}${loop ? ' · ↻' : ''}`;
  return (
    <StripMenu
      name={say`${rowLength(secondsPerRow)} per row${speedSign}`}
      title={say`How the sheet looks, and how it is played`}
    >
      {(close) => [
        <Heading key="h1">{say`A row shows`}</Heading>,
        <Choices
          key="rows"
          label={say`Seconds per row`}
          values={secondsPerRowChoices}
          current={secondsPerRow}
          name={rowLength}
          onChoose={(value) => close(() => setView({ secondsPerRow: value }))()}
        />,
        <Heading key="h2">{say`Height`}</Heading>,
        <Choices
          key="height"
          label={say`Height`}
          values={staveScaleChoices}
          current={staveScale}
          name={(value) => `${value}×`}
          onChoose={(value) => close(() => setView({ staveScale: value }))()}
        />,
        <Heading key="h3">{say`Played at its own pitch`}</Heading>,
        <Choices
          key="speed"
          label={say`Playing speed`}
          values={speedChoices}
          current={speed}
          name={(value) => `${value}×`}
          onChoose={(value) => close(() => setView({ speed: value }))()}
        />,
        <Divider key="d" />,
        <CommandItem
          key="spectrum"
          id="spectrum"
          close={close}
          name={picture === 'wave' ? say`Spectrum in place of the wave` : say`Wave in place of the spectrum`}
        />,
        <CommandItem key="loupe" id="loupe" close={close} name={loupe ? say`Close the loupe` : say`Loupe`} />,
        <CommandItem
          key="loop"
          id="loop"
          close={close}
          name={loop ? say`Play a selection once` : say`Play a selection again and again`}
        />,
        <CommandItem key="prompter" id="prompter" close={close} />,
        <CommandItem key="keys" id="allKeys" close={close} />,
      ]}
    </StripMenu>
  );
}

interface ChoicesProps<T extends number> {
  label: string;
  values: readonly T[];
  current: number;
  name: (value: T) => string;
  onChoose: (value: T) => void;
}

/** Left and right go along the numbers; up and down are the menu's. */
function walk(event: KeyboardEvent<HTMLElement>): void {
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  if (!step) return;
  event.preventDefault();
  event.stopPropagation();
  const numbers = [...event.currentTarget.querySelectorAll('button')];
  const at = numbers.findIndex((button) => button === document.activeElement);
  numbers[(at + step + numbers.length) % numbers.length].focus();
}

/** Numbers side by side, in a menu. */
function Choices<T extends number>({ label, values, current, name, onChoose }: ChoicesProps<T>) {
  return (
    <Box
      role="group"
      aria-label={label}
      tabIndex={-1}
      onFocus={(event) => {
        if (event.target === event.currentTarget)
          event.currentTarget.querySelector<HTMLElement>('[aria-checked=true]')?.focus();
      }}
      onKeyDown={walk}
      sx={{ px: 1.5, display: 'flex', flexWrap: 'wrap', maxWidth: 330 }}
    >
      {values.map((value) => (
        <Button
          key={value}
          size="small"
          color="inherit"
          role="menuitemradio"
          aria-checked={value === current}
          tabIndex={-1}
          onClick={() => onChoose(value)}
          sx={{
            minWidth: 46,
            px: 0.75,
            py: 0.25,
            bgcolor: value === current ? 'action.selected' : undefined,
          }}
        >
          {name(value)}
        </Button>
      ))}
    </Box>
  );
}
