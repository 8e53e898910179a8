import { useEffect } from 'react';
import { chordOf } from './chord';
import { commandsOf } from './keys';
import { commands, isMeantIn, press, type Screen } from './registry';

/**
 * Keys never act while text is being written, a menu or dialog is open, or a control has been reached with
 * Tab.
 */
function isBusy(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  if (
    target.closest(
      'input, textarea, select, [contenteditable=true], [role=combobox], [role=slider], [aria-roledescription=sortable]:focus-visible, [role=dialog]:not([data-keys=booth]), [role=menu], [role=listbox]',
    )
  )
    return true;
  if (document.querySelector('[role=dialog]:not([data-keys=booth]), [role=menu], [role=listbox]'))
    return true;
  const activates = event.key === ' ' || event.key === 'Enter';
  return (
    activates &&
    target.matches(
      'button:focus-visible, a:focus-visible, [role=button]:focus-visible, [role=tab]:focus-visible',
    )
  );
}

/**
 * The keys of a screen. They are caught before the focused element, so that a clicked button does not act a
 * second time.
 */
export function useCommandKeys(screen: Screen): void {
  useEffect(() => {
    const swallowed = new Set<string>();
    const down = (event: KeyboardEvent) => {
      if (event.altKey || isBusy(event)) return;
      const meant = commandsOf(chordOf(event)).filter((id) => isMeantIn(screen, id));
      if (meant.length === 0) return;
      event.preventDefault();
      event.stopPropagation();
      swallowed.add(event.code);
      press(
        meant.filter((id) => !event.repeat || commands[id].repeats),
        event.repeat,
      );
    };
    // A button acts on Space when the key comes up again.
    const up = (event: KeyboardEvent) => {
      if (swallowed.delete(event.code)) event.preventDefault();
    };
    window.addEventListener('keydown', down, true);
    window.addEventListener('keyup', up, true);
    return () => {
      window.removeEventListener('keydown', down, true);
      window.removeEventListener('keyup', up, true);
    };
  }, [screen]);
}
