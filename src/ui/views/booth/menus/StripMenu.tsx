'use client';
import { say } from '@/texts/say';
import ExpandMore from '@mui/icons-material/ExpandMore';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ListSubheader from '@mui/material/ListSubheader';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState, type KeyboardEvent, type ReactNode } from 'react';

interface StripMenuProps {
  name: string;
  title?: string;
  disabled?: boolean;
  /** Contents; `close` is called by whatever is chosen. */
  children: (close: (then?: () => void) => () => void) => ReactNode;
}

/**
 * Up and down go through everything that can have the focus, rows of numbers too, which the menu's own walk
 * leaves out.
 */
function walkItems(event: KeyboardEvent<HTMLElement>): void {
  const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
  const items = [...event.currentTarget.children].filter(
    (item) => item.hasAttribute('tabindex') && item.getAttribute('aria-disabled') !== 'true',
  ) as HTMLElement[];
  if (!step || items.length === 0) return;
  event.preventDefault();
  event.stopPropagation();
  const at = items.findIndex((item) => item.contains(document.activeElement));
  const next = at < 0 && step < 0 ? items.length - 1 : (at + step + items.length) % items.length;
  items[next].focus();
}

/** A menu of the strip. What is chosen acts after the menu is gone, so that keys mean the Booth again. */
export function StripMenu({ name, title, disabled, children }: StripMenuProps) {
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
        slotProps={{ list: { dense: true, onKeyDownCapture: walkItems } }}
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

export const Item = ({ name, keys, ...more }: ItemProps) => (
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

export const Heading = ({ children }: { children: ReactNode }) => (
  <ListSubheader role="presentation" sx={{ lineHeight: '28px', bgcolor: 'transparent' }}>
    {children}
  </ListSubheader>
);

/** A heading over choices that a key repeats. */
export const again = (what: string, key: string) => (key ? say`${what} (${key} again)` : what);
