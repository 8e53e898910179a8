'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { usePart } from '@/state/sheet/part';
import { addFurtherPart } from '@/state/sheet/parts';
import { useProject } from '@/state/project/openProject';
import { useView } from '@/state/page/view';
import { useCommandKeys } from '../../commands/useCommandKeys';
import { KeySheet } from '../../commands/KeySheet';
import { useNarrow } from '../../hooks/useNarrow';
import { Contained } from '../../components/Contained';
import { Deck } from './Deck';
import { EditStrip } from './EditStrip';
import { LevelColumn } from './LevelColumn';
import { Loupe } from './Loupe';
import { CueStage } from '../cues/CueStage';
import { CueSheetDialog } from '../cues/CueSheetDialog';
import { FarStrip } from '../far/FarStrip';
import { FilmWindow } from '../cues/FilmWindow';
import { MoveDialog } from './MoveDialog';
import { PhoneBooth } from './PhoneBooth';
import { Prompter } from './Prompter';
import { SidePanel } from './SidePanel';
import { SessionCard } from './SessionCard';
import { Sheet } from './Sheet';
import { SoundCheckDialog } from './SoundCheckDialog';

/** Script left, sheet in the middle, level right, deck below. */
export function BoothView() {
  useCommandKeys('booth');
  const partId = usePart((state) => state.id);
  const loupe = useView((state) => state.loupe);
  const hasParts = useProject((state) => state.parts.length > 0);
  const readOnly = useProject((state) => state.readOnly);
  const narrow = useNarrow();
  if (!hasParts) {
    return (
      <Box sx={{ m: 'auto', textAlign: 'center' }}>
        <Typography
          sx={{ mb: 2 }}
        >{say`This project has no parts. A part is a chapter, an episode or a stop.`}</Typography>
        <Button
          variant="contained"
          disabled={readOnly}
          onClick={() => void addFurtherPart()}
        >{say`Add a part`}</Button>
      </Box>
    );
  }
  if (narrow)
    return (
      <>
        <PhoneBooth />
        <SoundCheckDialog />
        <Prompter />
      </>
    );
  return (
    <>
      <Box sx={{ flex: 1, display: 'flex', minHeight: 0 }}>
        <SidePanel />
        <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
          <EditStrip />
          <SessionCard />
          <Contained key={partId} what={say`This sheet`}>
            {partId && <CueStage />}
            {partId && <Sheet />}
            {partId && loupe && <Loupe />}
          </Contained>
        </Box>
        <LevelColumn />
      </Box>
      <FarStrip />
      <Deck />
      <KeySheet />
      <SoundCheckDialog />
      <Prompter />
      <MoveDialog />
      <CueSheetDialog />
      <FilmWindow />
    </>
  );
}
