'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { notify } from '@/state/page/notices';

interface Props {
  label: string;
  text: string;
  /** On the button. */
  copy?: string;
}

/**
 * A text to be sent to somebody: it can be copied with one key, and selected where a browser does not let it.
 */
export function CopyText({ label, text, copy = say`Copy` }: Props) {
  const write = () =>
    navigator.clipboard.writeText(text).then(
      () => notify('success', say`Copied.`),
      () => notify('info', say`The browser does not let Parola copy. Select the text and copy it.`),
    );
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
      <TextField
        label={label}
        size="small"
        fullWidth
        value={text}
        slotProps={{ htmlInput: { readOnly: true } }}
        onFocus={(event) => event.target.select()}
      />
      <Button variant="contained" onClick={() => void write()} sx={{ flexShrink: 0 }}>
        {copy}
      </Button>
    </Box>
  );
}
