'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { useEffect, useMemo } from 'react';
import { followSpeech } from '@/state/mix/ducking';
import { drafted, stripsOf, useMixing } from '@/state/mix/strips';
import { areOf, useTurns } from '@/state/mix/turns';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';
import { stavesOf } from '../../canvas/drawMix';
import { KeySheet } from '../../commands/KeySheet';
import { useCommandKeys } from '../../commands/useCommandKeys';
import { Contained } from '../../components/Contained';
import { Sheet } from '../booth/Sheet';
import { BedList } from './BedList';
import { ConversationPanel } from './ConversationPanel';
import { FinishStrip } from './FinishStrip';
import { ListenDeck } from './ListenDeck';
import { Together } from './Together';
import { UnderSpeechPanel } from './UnderSpeechPanel';

/** The sheet with its levels, the voices and beds below it, the beds and what they measure beside it. */
export function FinishView() {
  useCommandKeys('finish');
  useEffect(() => followSpeech(), []);
  const partId = usePart((state) => state.id);
  const stored = usePart((state) => state.timeline);
  const draft = useMixing((state) => state.draft);
  const chosen = useMixing((state) => state.chosen);
  const projectId = useProject((state) => state.project?.id ?? '');
  const timeline = useMemo(() => drafted(stored, { draft }), [stored, draft]);
  const found = useTurns();
  const mixing = useMemo(() => {
    const strips = stripsOf(timeline);
    const levels = strips.slice(0, stavesOf(timeline)).map(({ id, points }, stave) => ({
      id,
      stave,
      points,
      chosen: id === (chosen ?? strips[0].id),
    }));
    return { timeline, levels, turns: areOf(found, timeline) ? found.turns : [] };
  }, [timeline, chosen, found]);
  if (!partId)
    return (
      <Box sx={{ m: 'auto', textAlign: 'center' }}>
        This project has no parts yet.{' '}
        <Button component={Link} href={`/project/${projectId}/booth`}>
          To the Booth
        </Button>
      </Box>
    );
  return (
    <>
      <Box sx={{ flex: 1, display: 'flex', minHeight: 0 }}>
        <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
          <FinishStrip />
          <Contained key={partId} what="This sheet">
            <Sheet mixing={mixing} />
          </Contained>
          <Together timeline={timeline} />
        </Box>
        <Box
          component="aside"
          aria-label="Beds"
          sx={{
            width: 316,
            flexShrink: 0,
            borderLeft: 1,
            borderColor: 'divider',
            overflowY: 'auto',
            px: 2,
            py: 1.75,
          }}
        >
          <BedList timeline={timeline} />
          <UnderSpeechPanel />
          <ConversationPanel />
        </Box>
      </Box>
      <ListenDeck />
      <KeySheet />
    </>
  );
}
