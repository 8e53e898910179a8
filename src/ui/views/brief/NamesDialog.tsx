import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { toParolaError } from '@/core/base/errors';
import { namesText } from '@/core/script/names';
import { saveNames } from '@/state/project/scriptText';
import { useProject } from '@/state/project/openProject';

/** How names are said, for the whole project: it stands above them wherever the script is read from. */
export function NamesDialog({ onClose }: { onClose: () => void }) {
  const readOnly = useProject((state) => state.readOnly);
  const [text, setText] = useState(() => namesText(useProject.getState().project?.names ?? []));
  const [error, setError] = useState('');
  const keep = () => {
    try {
      saveNames(text);
      onClose();
    } catch (thrown) {
      setError(toParolaError(thrown).message);
    }
  };
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle>{say`Names and how they are said`}</DialogTitle>
      <DialogContent>
        <Typography
          color="text.secondary"
          sx={{ mb: 2 }}
        >{say`For all parts of this project. Where one stands in the script, how it is said stands above it.`}</Typography>
        <TextField
          multiline
          autoFocus
          fullWidth
          minRows={8}
          maxRows={16}
          label={say`One to a line`}
          placeholder={say`Aoife = EE-fa`}
          value={text}
          error={error !== ''}
          helperText={error || say`The name as it is written, =, how it is said`}
          onChange={(event) => {
            setText(event.target.value);
            setError('');
          }}
          slotProps={{ htmlInput: { readOnly, spellCheck: false } }}
        />
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>{say`Cancel`}</Button>
        <Button variant="contained" disabled={readOnly} onClick={keep}>{say`Keep`}</Button>
      </DialogActions>
    </Dialog>
  );
}
