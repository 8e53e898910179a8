'use client';
import { Item } from '../views/booth/menus/StripMenu';
import { useKeyText } from './keys';
import { commands, run, type CommandId } from './registry';

interface Props {
  id: CommandId;
  /** Closes the menu, then does what is given: a key pressed right after means the Booth again. */
  close: (then: () => void) => () => void;
  disabled?: boolean;
  /** In place of the command's own words, where they depend on what is. */
  name?: string;
}

/** A command in a menu: its words, the key it has now, and what it does. */
export function CommandItem({ id, close, disabled, name }: Props) {
  const keyText = useKeyText();
  return (
    <Item
      name={name ?? commands[id].menu ?? commands[id].label}
      keys={keyText(id)}
      disabled={disabled}
      onClick={close(() => run(id))}
    />
  );
}
