'use client';
import { say } from '@/texts/say';
import { yupResolver } from '@hookform/resolvers/yup';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useForm } from 'react-hook-form';
import { object, string } from 'yup';

const schema = object({
  name: string()
    .trim()
    .required(say`Give it a name.`)
    .max(120, say`A name has at most 120 letters.`),
});

interface Props {
  title: string;
  initial: string;
  action: string;
  onClose: () => void;
  onName: (name: string) => void;
}

/** Asks for one name. Mounted only while it is open. */
export function NameDialog({ title, initial, action, onClose, onName }: Props) {
  const { register, handleSubmit, formState } = useForm({
    resolver: yupResolver(schema),
    defaultValues: { name: initial },
  });
  const submit = handleSubmit(({ name }) => {
    onName(name);
    onClose();
  });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <form onSubmit={(event) => void submit(event)}>
        <DialogTitle>{title}</DialogTitle>
        <DialogContent>
          <TextField
            {...register('name')}
            label={say`Name`}
            autoFocus
            fullWidth
            margin="dense"
            error={!!formState.errors.name}
            helperText={formState.errors.name?.message ?? ' '}
          />
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>{say`Cancel`}</Button>
          <Button type="submit" variant="contained">
            {action}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
