import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useKeyText } from './keys';
import { run, type CommandId } from './registry';

interface Props {
  id: CommandId;
  /** What it does here; a command is worded for the list of keys. */
  text: string;
  disabled?: boolean;
}

/** A button for a command, with the key it has now in sight. */
export function KeyedButton({ id, text, disabled }: Props) {
  const keyText = useKeyText();
  return (
    <Button
      size="small"
      color="inherit"
      variant="outlined"
      disabled={disabled}
      // The keys go on meaning the screen.
      onMouseDown={(event) => event.preventDefault()}
      onClick={() => run(id)}
      sx={{ borderColor: 'divider', whiteSpace: 'nowrap', gap: 1 }}
    >
      {text}
      <Box component="kbd" sx={{ font: 'inherit', fontSize: 12, color: 'text.secondary' }}>
        {keyText(id)}
      </Box>
    </Button>
  );
}
