import { say, withinSentence } from '@/texts/say';
import PlayArrow from '@mui/icons-material/PlayArrow';
import Repeat from '@mui/icons-material/Repeat';
import Stop from '@mui/icons-material/Stop';
import Box from '@mui/material/Box';
import { guidesOf } from '@/core/timeline/guides';
import { stepNames } from '@/core/chain/stepText';
import { chainOf } from '@/state/chain/chains';
import { useChainHearing } from '@/state/hearing/chainHearing';
import { isPartial, useListening, type Hear } from '@/state/hearing/listening';
import { useTransport } from '@/state/hearing/transport';
import { usePart } from '@/state/sheet/part';
import { useView } from '@/state/page/view';
import { useKeyText } from '../../commands/keys';
import { run } from '../../commands/registry';
import { Clock, DeckButton } from '../booth/Deck';
import { hearNames } from './chain/HearBar';

const heardWithGuide: Record<Hear, string> = {
  both: say`all, and the guide, which is not written`,
  mine: say`all but the guide`,
  guide: say`the guide alone`,
};

/** How the shown voice is heard, where that is not as it will be written; null otherwise. */
function useHeardChain(): string | null {
  const { hear, alone, voice } = useChainHearing();
  const name = usePart(({ timeline }) => timeline.tracks.find(({ id }) => id === voice)?.name);
  const step = usePart(({ timeline }) =>
    voice === null || alone === null
      ? undefined
      : chainOf(timeline, voice).steps.find(({ id }) => id === alone),
  );
  if (hear !== 'finished') return `${name ?? ''}, ${withinSentence(hearNames[hear])}`;
  return step ? say`${name ?? ''} through “${stepNames[step.kind]}” alone` : null;
}

/** Playing, with what is heard told beside it. */
export function ListenDeck() {
  const playing = useTransport((state) => state.mode === 'playing');
  const selected = usePart((state) => state.selection !== null);
  const loop = useView((state) => state.loop);
  const partial = useListening(isPartial);
  const hear = useListening((state) => state.hear);
  const guided = usePart((state) => guidesOf(state.timeline).length > 0);
  const chain = useHeardChain();
  const keyText = useKeyText();
  return (
    <Box
      component="footer"
      aria-label={say`Deck`}
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
        title={playing ? say`Stop` : say`Play`}
        detail={keyText('play')}
      />
      <DeckButton
        onClick={() => run('playSelection')}
        disabled={!selected}
        icon={<PlayArrow />}
        title={say`Selection`}
        detail={keyText('playSelection')}
      />
      <DeckButton
        onClick={() => run('loop')}
        icon={<Repeat color={loop ? 'warning' : 'inherit'} />}
        title={loop ? say`Again and again` : say`Once`}
        detail={keyText('loop')}
      />
      <Clock />
      <Box sx={{ flex: 1 }} />
      <Box
        sx={{ fontSize: 14, color: partial || chain ? 'warning.main' : 'text.secondary' }}
      >{say`hears: ${chain ? chain : partial ? say`not all of it` : guided ? heardWithGuide[hear] : say`all voices and beds`}`}</Box>
    </Box>
  );
}
