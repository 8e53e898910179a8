'use client';
import ExpandMore from '@mui/icons-material/ExpandMore';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import ListSubheader from '@mui/material/ListSubheader';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState, type ReactNode } from 'react';
import { fadeShapes, type FadeShape } from '@/core/timeline/pieces';
import * as editing from '@/state/editing';
import { saveSelection } from '@/state/exporting';
import { copyToNewPart, moveToPart, splitAtPartMarks } from '@/state/partEdits';
import { usePart } from '@/state/part';
import { cleanPauses } from '@/state/pauseCleaning';
import {
  findTone,
  hearTone,
  loudestToneDbfs,
  patchTone,
  showTone,
  toneNow,
  useSelectionAsTone as keepSelectionAsTone,
} from '@/state/room';
import { useSession } from '@/state/session';
import { secondsPerRowChoices, setView, staveScaleChoices, speedChoices, useView } from '@/state/view';

interface StripMenuProps {
  name: string;
  title?: string;
  disabled?: boolean;
  /** Contents; `close` is called by whatever is chosen. */
  children: (close: (then?: () => void) => () => void) => ReactNode;
}

/** A menu of the strip. What is chosen acts after the menu is gone, so that keys mean the Booth again. */
function StripMenu({ name, title, disabled, children }: StripMenuProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const close =
    (then: () => void = () => undefined) =>
    () => {
      setAnchor(null);
      then();
    };
  return (
    <>
      <Button
        size="small"
        color="inherit"
        disabled={disabled}
        title={title}
        aria-haspopup="menu"
        endIcon={<ExpandMore sx={{ ml: -0.75 }} />}
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ px: 1, minWidth: 0, whiteSpace: 'nowrap' }}
      >
        {name}
      </Button>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        transitionDuration={0}
        disableRestoreFocus
        slotProps={{ list: { dense: true } }}
      >
        {children(close)}
      </Menu>
    </>
  );
}

interface ItemProps {
  name: string;
  keys?: string;
  onClick: () => void;
  disabled?: boolean;
  selected?: boolean;
}

const Item = ({ name, keys, ...more }: ItemProps) => (
  <MenuItem {...more}>
    {name}
    <Box component="span" sx={{ flex: 1, minWidth: 32 }} />
    {keys && (
      <Box component="span" sx={{ color: 'text.secondary', fontSize: 12 }}>
        {keys}
      </Box>
    )}
  </MenuItem>
);

const Heading = ({ children }: { children: ReactNode }) => (
  <ListSubheader sx={{ lineHeight: '28px', bgcolor: 'transparent' }}>{children}</ListSubheader>
);

export function PassageMenu({ disabled }: { disabled: boolean }) {
  const selected = usePart((state) => state.selection !== null);
  const openPart = usePart((state) => state.id);
  const parts = useSession((state) => state.parts);
  const passage = editing.useClipboard((state) => state.passage);
  return (
    <StripMenu name="Passage" disabled={disabled} title="Cut, paste, move, level">
      {(close) => [
        <Item
          key="cut"
          name="Cut"
          keys="Ctrl X"
          disabled={!selected}
          onClick={close(editing.cutSelection)}
        />,
        <Item
          key="copy"
          name="Copy"
          keys="Ctrl C"
          disabled={!selected}
          onClick={close(editing.copySelection)}
        />,
        <Item
          key="paste"
          name="Paste"
          keys="Ctrl V"
          disabled={!passage}
          onClick={close(editing.pasteAtCaret)}
        />,
        <Item
          key="over"
          name="Paste over, level matched"
          keys="Shift Ctrl V"
          disabled={!passage}
          onClick={close(() => void editing.pasteOverAtCaret())}
        />,
        <Divider key="d1" />,
        <Item key="earlier" name="Earlier by 10 ms" keys=";" onClick={close(() => editing.nudge(-10))} />,
        <Item key="later" name="Later by 10 ms" keys="'" onClick={close(() => editing.nudge(10))} />,
        <Item key="louder" name="1 dB louder" keys="=" onClick={close(() => editing.changeGain(1))} />,
        <Item key="softer" name="1 dB softer" keys="−" onClick={close(() => editing.changeGain(-1))} />,
        <Item
          key="match"
          name="As loud as its neighbours"
          keys="Ctrl G"
          disabled={!selected}
          onClick={close(() => void editing.matchGain())}
        />,
        <Divider key="d2" />,
        <Item
          key="flubs"
          name="Strike all flub ranges"
          keys="Shift Ctrl Backspace"
          onClick={close(editing.strikeFlubs)}
        />,
        <Item key="close" name="Close up all" keys="Shift Ctrl J" onClick={close(editing.closeUpAll)} />,
        <Divider key="d3" />,
        <Item
          key="new"
          name="Copy to a new part"
          disabled={!selected}
          onClick={close(() => void copyToNewPart())}
        />,
        ...parts
          .filter(({ id }) => id !== openPart)
          .map(({ id, name }) => (
            <Item
              key={id}
              name={`Move to “${name}”`}
              disabled={!selected}
              onClick={close(() => void moveToPart(id))}
            />
          )),
        <Item
          key="file"
          name="Save to a file (WAV, 32-bit float)"
          disabled={!selected}
          onClick={close(() => void saveSelection())}
        />,
        <Item key="split" name="Split into parts at ¶" onClick={close(() => void splitAtPartMarks())} />,
      ]}
    </StripMenu>
  );
}

const shapeNames: Record<FadeShape, string> = {
  power: 'Even power',
  straight: 'Straight',
  smooth: 'Smooth',
};
const joinLengthsMs = [null, 2, 5, 20, 50, 200] as const;

export function JoinMenu({ disabled }: { disabled: boolean }) {
  const selected = usePart((state) => state.selection !== null);
  const settings = editing.useEditSettings();
  const set = editing.useEditSettings.setState;
  return (
    <StripMenu name="Joins" disabled={disabled} title="Split, trim, fades, crossfades">
      {(close) => [
        <Item key="split" name="Split at the caret" keys="S" onClick={close(editing.splitAtCaret)} />,
        <Item
          key="start"
          name="Trim the piece up to the caret"
          keys="{"
          onClick={close(() => editing.trimAtCaret('start'))}
        />,
        <Item
          key="end"
          name="Trim the piece from the caret on"
          keys="}"
          onClick={close(() => editing.trimAtCaret('end'))}
        />,
        <Item
          key="in"
          name="Fade in over the selection"
          keys="I"
          disabled={!selected}
          onClick={close(() => editing.fadeSelection('fadeIn'))}
        />,
        <Item
          key="out"
          name="Fade out over the selection"
          keys="U"
          disabled={!selected}
          onClick={close(() => editing.fadeSelection('fadeOut'))}
        />,
        <Heading key="h1">Shape of fades and joins</Heading>,
        ...fadeShapes.map((shape) => (
          <Item
            key={shape}
            name={shapeNames[shape]}
            selected={settings.fadeShape === shape}
            onClick={close(() => set({ fadeShape: shape, joinShape: shape }))}
          />
        )),
        <Heading key="h2">Join nearest the caret (Shift J again)</Heading>,
        ...joinLengthsMs.map((joinMs) => (
          <Item
            key={joinMs ?? 'usual'}
            name={joinMs === null ? 'Usual length' : `${joinMs} ms`}
            selected={settings.joinMs === joinMs}
            onClick={close(() => {
              set({ joinMs });
              editing.setJoinAtCaret();
            })}
          />
        )),
      ]}
    </StripMenu>
  );
}

const pauseChoices = [0.3, 0.5, 0.7, 1, 1.5, 2.5] as const;
const breathChoices = [0, 6, 12] as const;

export function RoomMenu({ disabled }: { disabled: boolean }) {
  const selected = usePart((state) => state.selection !== null);
  // The tone belongs to part and sources; both say when it changes.
  useSession((state) => state.parts);
  useSession((state) => state.sources);
  const tone = toneNow();
  const { pauseSeconds } = editing.useEditSettings();
  return (
    <StripMenu name="Room" disabled={disabled} title="Room tone and pauses">
      {(close) => [
        <Heading key="tone">{describeTone(tone)}</Heading>,
        <Item
          key="where"
          name="Show where it is from"
          disabled={!tone || tone.origin === 'check'}
          onClick={close(showTone)}
        />,
        <Item key="hear" name="Hear the room tone" keys="Shift T" onClick={close(() => void hearTone())} />,
        <Item
          key="find"
          name={tone ? 'Find room tone again' : 'Find room tone'}
          onClick={close(() => void findTone(true))}
        />,
        <Item
          key="use"
          name="Use the selection as room tone"
          disabled={!selected}
          onClick={close(() => void keepSelectionAsTone())}
        />,
        <Item
          key="patch"
          name="Patch tone over the selection"
          keys="T"
          disabled={!selected}
          onClick={close(() => void patchTone())}
        />,
        <Item
          key="silence"
          name="Silence over the selection"
          keys="Shift X"
          disabled={!selected}
          onClick={close(editing.silenceSelection)}
        />,
        <Heading key="all">Room tone in all pauses of the part</Heading>,
        ...breathChoices.map((db) => (
          <Item
            key={`breath${db}`}
            name={db === 0 ? 'Keep breaths as they are' : `Breaths ${db} dB softer`}
            onClick={close(() => void cleanPauses({ breathsLowerDb: db }))}
          />
        )),
        <Heading key="pause">Length of the pause at the caret (O again)</Heading>,
        ...pauseChoices.map((seconds) => (
          <Item
            key={`pause${seconds}`}
            name={`${seconds} s`}
            selected={seconds === pauseSeconds}
            onClick={close(() => {
              editing.useEditSettings.setState({ pauseSeconds: seconds });
              void editing.setPause(seconds);
            })}
          />
        )),
      ]}
    </StripMenu>
  );
}

const origins = {
  found: 'found in this part',
  check: 'from the sound check',
  chosen: 'your choice',
} as const;

function describeTone(tone: ReturnType<typeof toneNow>): string {
  if (!tone) return 'Room tone: none yet';
  const over = tone.levelDbfs - loudestToneDbfs;
  const level = `${tone.levelDbfs.toFixed(1).replace('-', '−')} dBFS`;
  return `Room tone: ${level}, ${origins[tone.origin]}${over > 0 ? ` — ${over.toFixed(1)} dB over −60` : ''}`;
}

const rowLength = (seconds: number) => (seconds < 60 ? `${seconds} s` : `${seconds / 60} min`);

/** How much a row shows, how high, and as what; how fast it is played. */
export function LookMenu() {
  const { secondsPerRow, staveScale, picture, loupe, speed, loop } = useView();
  const speedSign = `${speed === 1 ? '' : ` · ${speed}×`}${loop ? ' · ↻' : ''}`;
  return (
    <StripMenu
      name={`${rowLength(secondsPerRow)} per row${speedSign}`}
      title="How the sheet looks, and how it is played"
    >
      {(close) => [
        <Heading key="h1">A row shows</Heading>,
        <Choices
          key="rows"
          label="Seconds per row"
          values={secondsPerRowChoices}
          current={secondsPerRow}
          name={rowLength}
          onChoose={(value) => close(() => setView({ secondsPerRow: value }))()}
        />,
        <Heading key="h2">Height</Heading>,
        <Choices
          key="height"
          label="Height"
          values={staveScaleChoices}
          current={staveScale}
          name={(value) => `${value}×`}
          onChoose={(value) => close(() => setView({ staveScale: value }))()}
        />,
        <Heading key="h3">Played at its own pitch</Heading>,
        <Choices
          key="speed"
          label="Playing speed"
          values={speedChoices}
          current={speed}
          name={(value) => `${value}×`}
          onChoose={(value) => close(() => setView({ speed: value }))()}
        />,
        <Divider key="d" />,
        <Item
          key="spectrum"
          name={picture === 'wave' ? 'Spectrum in place of the wave' : 'Wave in place of the spectrum'}
          keys="Q"
          onClick={close(() => setView({ picture: picture === 'wave' ? 'spectrum' : 'wave' }))}
        />,
        <Item
          key="loupe"
          name={loupe ? 'Close the loupe' : 'Loupe'}
          keys="Z"
          onClick={close(() => setView({ loupe: !loupe }))}
        />,
        <Item
          key="loop"
          name={loop ? 'Play a selection once' : 'Play a selection again and again'}
          keys="Shift O"
          onClick={close(() => setView({ loop: !loop }))}
        />,
        <Item
          key="prompter"
          name="The script, large and dark"
          keys="B"
          onClick={close(() => setView({ prompter: true }))}
        />,
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

/** Numbers side by side, in a menu. */
function Choices<T extends number>({ label, values, current, name, onChoose }: ChoicesProps<T>) {
  return (
    <Box role="group" aria-label={label} sx={{ px: 1.5, display: 'flex', flexWrap: 'wrap', maxWidth: 330 }}>
      {values.map((value) => (
        <Button
          key={value}
          size="small"
          color="inherit"
          aria-pressed={value === current}
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
