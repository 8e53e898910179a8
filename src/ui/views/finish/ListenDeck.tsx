import PlayArrow from '@mui/icons-material/PlayArrow';
import Repeat from '@mui/icons-material/Repeat';
import Stop from '@mui/icons-material/Stop';
import Box from '@mui/material/Box';
import { guidesOf } from '@/core/timeline/guides';
import { isPartial, useListening, type Hear } from '@/state/hearing/listening';
import { useTransport } from '@/state/hearing/transport';
import { usePart } from '@/state/sheet/part';
import { useView } from '@/state/page/view';
import { useKeyText } from '../../commands/keys';
import { run } from '../../commands/registry';
import { Clock, DeckButton } from '../booth/Deck';

const heardWithGuide: Record<Hear, string> = {
  both: 'all, and the guide, which is not written',
  mine: 'all but the guide',
  guide: 'the guide alone',
};

/** Playing, with what is heard told beside it. */
export function ListenDeck() {
  const playing = useTransport((state) => state.mode === 'playing');
  const selected = usePart((state) => state.selection !== null);
  const loop = useView((state) => state.loop);
  const partial = useListening(isPartial);
  const hear = useListening((state) => state.hear);
  const guided = usePart((state) => guidesOf(state.timeline).length > 0);
  const keyText = useKeyText();
  return (
    <Box
      component="footer"
      aria-label="Deck"
      onMouseDown={(event) => event.preventDefault()}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.25,
        px: 2,
        height: 76,
        borderTop: 1,
        borderColor: 'divider',
        flexShrink: 0,
      }}
    >
      <DeckButton
        onClick={() => run('play')}
        icon={playing ? <Stop /> : <PlayArrow />}
        title={playing ? 'Stop' : 'Play'}
        detail={keyText('play')}
      />
      <DeckButton
        onClick={() => run('playSelection')}
        disabled={!selected}
        icon={<PlayArrow />}
        title="Selection"
        detail={keyText('playSelection')}
      />
      <DeckButton
        onClick={() => run('loop')}
        icon={<Repeat color={loop ? 'warning' : 'inherit'} />}
        title={loop ? 'Again and again' : 'Once'}
        detail={keyText('loop')}
      />
      <Clock />
      <Box sx={{ flex: 1 }} />
      <Box sx={{ fontSize: 14, color: partial ? 'warning.main' : 'text.secondary' }}>
        hears: {partial ? 'not all of it' : guided ? heardWithGuide[hear] : 'all voices and beds'}
      </Box>
    </Box>
  );
}
