'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { useEffect, useMemo } from 'react';
import { stepsOn } from '@/core/chain/chain';
import { readChainLibrary } from '@/state/chain/chainLibrary';
import { followChain } from '@/state/chain/chainMeasures';
import { chainOf, shownVoice } from '@/state/chain/chains';
import { hearFinished } from '@/state/hearing/chainHearing';
import { followSpeech } from '@/state/mix/ducking';
import { drafted, stripsOf, useMixing } from '@/state/mix/strips';
import { areOf, useTurns } from '@/state/mix/turns';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';
import { differInChains } from '@/core/timeline/timeline';
import { stavesOf } from '../../canvas/drawMix';
import { KeySheet } from '../../commands/KeySheet';
import { useCommandKeys } from '../../commands/useCommandKeys';
import { Contained } from '../../components/Contained';
import { useStable } from '../../hooks/useStable';
import { Sheet } from '../booth/Sheet';
import { BedList } from './BedList';
import { ChainFigures } from './chain/ChainFigures';
import { ChainPanel } from './chain/ChainPanel';
import { HearBar } from './chain/HearBar';
import { useFinishedInk } from './chain/useFinishedInk';
import { ConversationPanel } from './ConversationPanel';
import { FinishStrip } from './FinishStrip';
import { ListenDeck } from './ListenDeck';
import { Together } from './Together';
import { UnderSpeechPanel } from './UnderSpeechPanel';

// What a change on its way says nothing to is not drawn again for it.
const bedsBeside = (
  <>
    <UnderSpeechPanel />
    <ConversationPanel />
  </>
);
const foot = (
  <>
    <ListenDeck />
    <KeySheet />
  </>
);
const finishStrip = <FinishStrip />;
const hearBar = <HearBar />;

/**
 * The chain of a voice, the sheet with its levels, the voices and beds below it, figures and beds beside
 * it.
 */
export function FinishView() {
  useCommandKeys('finish');
  useEffect(() => followSpeech(), []);
  useEffect(() => {
    void readChainLibrary();
    const end = followChain();
    return () => {
      end();
      hearFinished();
    };
  }, []);
  const partId = usePart((state) => state.id);
  const stored = usePart((state) => state.timeline);
  const draft = useMixing((state) => state.draft);
  const chosen = useMixing((state) => state.chosen);
  const projectId = useProject((state) => state.project?.id ?? '');
  const timeline = useMemo(() => drafted(stored, { draft }), [stored, draft]);
  // While a chain is changed all that shows levels and places stays as it is.
  const plain = useStable(timeline, differInChains);
  const found = useTurns();
  const voice = shownVoice(timeline, chosen);
  const chained = voice !== null && stepsOn(chainOf(timeline, voice)).length > 0;
  const finished = useFinishedInk(timeline, chained ? voice : null);
  const mixing = useMemo(() => {
    const strips = stripsOf(plain);
    const levels = strips.slice(0, stavesOf(plain)).map(({ id, points }, stave) => ({
      id,
      stave,
      points,
      chosen: id === (chosen ?? strips[0].id),
    }));
    return { timeline: plain, levels, turns: areOf(found, plain) ? found.turns : [], finished };
  }, [plain, chosen, found, finished]);
  const together = useMemo(() => <Together timeline={plain} />, [plain]);
  const figures = useMemo(
    () => (
      <>
        <ChainFigures timeline={stored} />
        <BedList timeline={plain} />
        {bedsBeside}
      </>
    ),
    [stored, plain],
  );
  if (!partId)
    return (
      <Box sx={{ m: 'auto', textAlign: 'center' }}>
        {say`This project has no parts yet. `}
        <Button component={Link} href={`/project/${projectId}/booth`}>{say`To the Booth`}</Button>
      </Box>
    );
  return (
    <>
      <Box sx={{ flex: 1, display: 'flex', minHeight: 0 }}>
        <ChainPanel timeline={timeline} />
        <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
          {finishStrip}
          {chained && hearBar}
          <Contained key={partId} what={say`This sheet`}>
            <Sheet mixing={mixing} />
          </Contained>
          {together}
        </Box>
        <Box
          component="aside"
          aria-label={say`Figures and beds`}
          sx={{
            width: 284,
            flexShrink: 0,
            borderLeft: 1,
            borderColor: 'divider',
            overflowY: 'auto',
            px: 2,
            py: 1.75,
          }}
        >
          {figures}
        </Box>
      </Box>
      {foot}
    </>
  );
}
