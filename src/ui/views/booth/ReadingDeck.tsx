import { say } from '@/texts/say';
import PlayArrow from '@mui/icons-material/PlayArrow';
import Stop from '@mui/icons-material/Stop';
import Undo from '@mui/icons-material/Undo';
import Box from '@mui/material/Box';
import { useProject } from '@/state/project/openProject';
import { useTransport } from '@/state/hearing/transport';
import { useKeyText } from '../../commands/keys';
import { run } from '../../commands/registry';
import { DeckButton, FlubSign, RecordButton } from './Deck';

/** What is needed while reading, under a finger: record, again from the start of the sentence, flub, play. */
export function ReadingDeck() {
  const mode = useTransport((state) => state.mode);
  const readOnly = useProject((state) => state.readOnly);
  const recording = mode === 'recording' || mode === 'rolling';
  const keyText = useKeyText();
  return (
    <Box
      role="group"
      aria-label={say`Deck`}
      onMouseDown={(event) => event.preventDefault()}
      sx={{ display: 'flex', justifyContent: 'center', gap: 1, p: 1, flexShrink: 0 }}
    >
      <RecordButton />
      {recording ? (
        <DeckButton
          onClick={() => run('retakeSentence')}
          icon={<Undo />}
          title={say`Again`}
          detail={keyText('retakeSentence')}
        />
      ) : (
        <DeckButton
          onClick={() => run('play')}
          disabled={mode === 'finishing'}
          icon={mode === 'playing' ? <Stop /> : <PlayArrow />}
          title={mode === 'playing' ? say`Stop` : say`Play`}
          detail={keyText('play')}
        />
      )}
      <DeckButton
        onClick={() => run('flub')}
        disabled={readOnly}
        icon={<FlubSign />}
        title={say`Flub`}
        detail={keyText('flub')}
      />
    </Box>
  );
}
