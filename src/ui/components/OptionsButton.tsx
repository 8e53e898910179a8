import Button from '@mui/material/Button';
import Popover from '@mui/material/Popover';
import { useState, type ReactNode } from 'react';

interface Props {
  /** What is on the button. */
  text: string;
  /** What it is called, where that is more than its text. */
  label?: string;
  title: string;
  /** What the options are called. */
  name: string;
  disabled: boolean;
  children: ReactNode;
}

/** A button of the deck that opens options above itself. */
export function OptionsButton({ text, label, title, name, disabled, children }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        variant="outlined"
        color="inherit"
        size="small"
        disabled={disabled}
        onClick={(event) => setAnchor(event.currentTarget)}
        aria-haspopup="dialog"
        aria-label={label}
        title={title}
        sx={{ height: 36, borderColor: 'divider', whiteSpace: 'nowrap' }}
      >
        {text}
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transitionDuration={0}
        // The next Enter means record, not this button.
        disableRestoreFocus
        slotProps={{ paper: { role: 'dialog', 'aria-label': name, sx: { p: 2.5, width: 370 } } }}
      >
        {children}
      </Popover>
    </>
  );
}
