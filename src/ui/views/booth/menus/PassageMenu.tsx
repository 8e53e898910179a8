'use client';
import { say } from '@/texts/say';
import Divider from '@mui/material/Divider';
import { useClipboard } from '@/state/sheet/editing';
import { usePart } from '@/state/sheet/part';
import { CommandItem } from '../../../commands/CommandItem';
import { StripMenu } from './StripMenu';

export function PassageMenu({ disabled }: { disabled: boolean }) {
  const selected = usePart((state) => state.selection !== null);
  const passage = useClipboard((state) => state.passage);
  return (
    <StripMenu name={say`Passage`} disabled={disabled} title={say`Cut, paste, move, level`}>
      {(close) => [
        <CommandItem key="cut" id="cut" close={close} disabled={!selected} />,
        <CommandItem key="copy" id="copy" close={close} disabled={!selected} />,
        <CommandItem key="paste" id="paste" close={close} disabled={!passage} />,
        <CommandItem key="over" id="pasteOver" close={close} disabled={!passage} />,
        <Divider key="d1" />,
        <CommandItem key="earlier" id="earlier10" close={close} />,
        <CommandItem key="later" id="later10" close={close} />,
        <CommandItem key="louder" id="louder" close={close} />,
        <CommandItem key="softer" id="softer" close={close} />,
        <CommandItem key="match" id="matchLevel" close={close} disabled={!selected} />,
        <Divider key="d2" />,
        <CommandItem key="flubs" id="strikeFlubs" close={close} />,
        <CommandItem key="close" id="closeUpAll" close={close} />,
        <Divider key="d3" />,
        <CommandItem key="new" id="copyToPart" close={close} disabled={!selected} />,
        <CommandItem key="move" id="moveToPart" close={close} disabled={!selected} />,
        <CommandItem key="file" id="saveSelection" close={close} disabled={!selected} />,
        <CommandItem key="put" id="putPartIn" close={close} />,
        <CommandItem key="lay" id="layInStep" close={close} />,
        <CommandItem key="back" id="cutBack" close={close} />,
        <CommandItem key="split" id="splitIntoParts" close={close} />,
      ]}
    </StripMenu>
  );
}
