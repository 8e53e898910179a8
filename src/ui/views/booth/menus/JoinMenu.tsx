'use client';
import { say } from '@/texts/say';
import { fadeShapes, type FadeShape } from '@/core/timeline/pieces';
import * as editing from '@/state/sheet/editing';
import { usePart } from '@/state/sheet/part';
import { CommandItem } from '../../../commands/CommandItem';
import { useKeyText } from '../../../commands/keys';
import { again, Heading, Item, StripMenu } from './StripMenu';

const shapeNames: Record<FadeShape, string> = {
  power: say`Even power`,
  straight: say`Straight`,
  smooth: say`Smooth`,
};
const joinLengthsMs = [null, 2, 5, 20, 50, 200] as const;

export function JoinMenu({ disabled }: { disabled: boolean }) {
  const selected = usePart((state) => state.selection !== null);
  const settings = editing.useEditSettings();
  const set = editing.useEditSettings.setState;
  const keyText = useKeyText();
  return (
    <StripMenu name={say`Joins`} disabled={disabled} title={say`Split, trim, fades, crossfades`}>
      {(close) => [
        <CommandItem key="split" id="split" close={close} />,
        <CommandItem key="start" id="trimStart" close={close} />,
        <CommandItem key="end" id="trimEnd" close={close} />,
        <CommandItem key="in" id="fadeIn" close={close} disabled={!selected} />,
        <CommandItem key="out" id="fadeOut" close={close} disabled={!selected} />,
        <CommandItem key="clear" id="clearJoin" close={close} />,
        <Heading key="h1">{say`Shape of fades and joins`}</Heading>,
        ...fadeShapes.map((shape) => (
          <Item
            key={shape}
            name={shapeNames[shape]}
            selected={settings.fadeShape === shape}
            onClick={close(() => set({ fadeShape: shape, joinShape: shape }))}
          />
        )),
        <Heading key="h2">{again(say`Join nearest the caret`, keyText('setJoin'))}</Heading>,
        ...joinLengthsMs.map((joinMs) => (
          <Item
            key={joinMs ?? 'usual'}
            name={joinMs === null ? say`Usual length` : `${joinMs} ms`}
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
