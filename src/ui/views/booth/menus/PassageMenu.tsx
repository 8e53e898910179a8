'use client';
import Divider from '@mui/material/Divider';
import * as editing from '@/state/sheet/editing';
import { saveSelection } from '@/state/files/exporting';
import { copyToNewPart, moveToPart, splitAtPartMarks } from '@/state/sheet/partEdits';
import { closeUpAll, usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { Item, StripMenu } from './StripMenu';

export function PassageMenu({ disabled }: { disabled: boolean }) {
  const selected = usePart((state) => state.selection !== null);
  const openPart = usePart((state) => state.id);
  const parts = useProject((state) => state.parts);
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
        <Item key="close" name="Close up all" keys="Shift Ctrl J" onClick={close(closeUpAll)} />,
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
              onClick={close(() => moveToPart(id))}
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
