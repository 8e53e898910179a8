'use client';
import { fadeShapes, type FadeShape } from '@/core/timeline/pieces';
import * as editing from '@/state/sheet/editing';
import { usePart } from '@/state/sheet/part';
import { Heading, Item, StripMenu } from './StripMenu';

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
        <Item
          key="clear"
          name="Take the split or join at the caret back"
          onClick={close(editing.clearJoinAtCaret)}
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
