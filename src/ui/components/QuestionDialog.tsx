'use client';
import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogContentText from '@mui/material/DialogContentText';
import DialogTitle from '@mui/material/DialogTitle';
import { useQuestion } from '@/state/page/questions';

const mostInARow = 3;
const stacked = {
  flexDirection: 'column-reverse',
  alignItems: 'stretch',
  gap: 1,
  '& > :not(style) ~ :not(style)': { ml: 0 },
} as const;

/** A question the application has while it works; closing the dialog calls the work off. */
export function QuestionDialog() {
  const { question } = useQuestion();
  if (!question) return null;
  const { title, text, choices, answer } = question;
  return (
    <Dialog open onClose={() => answer(null)} maxWidth="sm" aria-labelledby="question">
      <DialogTitle id="question">{title}</DialogTitle>
      <DialogContent>
        <DialogContentText sx={{ whiteSpace: 'pre-line' }}>{text}</DialogContentText>
      </DialogContent>
      <DialogActions sx={choices.length > mostInARow ? stacked : undefined}>
        <Button color="inherit" onClick={() => answer(null)} autoFocus>{say`Cancel`}</Button>
        {choices.map(({ id, label, destructive }) => (
          <Button
            key={id}
            variant={destructive ? 'contained' : 'outlined'}
            color={destructive ? 'error' : 'secondary'}
            onClick={() => answer(id)}
          >
            {label}
          </Button>
        ))}
      </DialogActions>
    </Dialog>
  );
}
