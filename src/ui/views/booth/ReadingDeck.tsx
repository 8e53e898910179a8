import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import { useTransport } from '@/state/hearing/transport';
import { AgainButton, FlubButton, PlayButton, RecordButton } from './Deck';

/** What is needed while reading, under a finger: record, again from the start of the sentence, flub, play. */
export function ReadingDeck() {
  const recording = useTransport(({ mode }) => mode === 'recording' || mode === 'rolling');
  return (
    <Box
      role="group"
      aria-label={say`Deck`}
      onMouseDown={(event) => event.preventDefault()}
      sx={{ display: 'flex', justifyContent: 'center', gap: 1, p: 1, flexShrink: 0 }}
    >
      <RecordButton />
      {recording ? <AgainButton brief /> : <PlayButton />}
      <FlubButton />
    </Box>
  );
}
