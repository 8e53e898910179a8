'use client';
import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogContentText from '@mui/material/DialogContentText';
import DialogTitle from '@mui/material/DialogTitle';

interface Props {
  title: string;
  text: string;
  action: string;
  onClose: () => void;
  onConfirm: () => void;
}

/** Asks before something goes for good, and says what goes. */
export function ConfirmDialog({ title, text, action, onClose, onConfirm }: Props) {
  return (
    <Dialog open onClose={onClose} maxWidth="xs">
      <DialogTitle>{title}</DialogTitle>
      <DialogContent>
        <DialogContentText>{text}</DialogContentText>
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose} autoFocus>{say`Keep`}</Button>
        <Button
          color="error"
          variant="contained"
          onClick={() => {
            onConfirm();
            onClose();
          }}
        >
          {action}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
