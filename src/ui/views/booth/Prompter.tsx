'use client';
import { say } from '@/texts/say';
import Close from '@mui/icons-material/Close';
import TextDecrease from '@mui/icons-material/TextDecrease';
import TextIncrease from '@mui/icons-material/TextIncrease';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import IconButton from '@mui/material/IconButton';
import { useCallback, useRef } from 'react';
import { formatTime } from '@/core/base/units';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { headFrame, useTransport } from '@/state/hearing/transport';
import { prompterSizeChoices, setView, stepOf, useView } from '@/state/page/view';
import { lamp } from '../../theme/palette';
import { useTicks } from '../../hooks/useTicks';
import { ReadingDeck } from './ReadingDeck';
import { ReadingLines } from './ReadingLines';

/** The script, large on dark, for reading from; the Booth's keys go on working. Esc closes it. */
export function Prompter() {
  const open = useView((state) => state.prompter);
  const size = useView((state) => state.prompterSize);
  const partId = usePart((state) => state.id);
  const part = useProject((state) => state.parts.find(({ id }) => id === partId));
  const mode = useTransport((state) => state.mode);
  if (!open || !part) return null;
  const close = () => setView({ prompter: false });
  const grow = (step: -1 | 1) => setView({ prompterSize: stepOf(prompterSizeChoices, size, step) });
  return (
    <Dialog
      fullScreen
      open
      onClose={close}
      transitionDuration={0}
      disableRestoreFocus
      slotProps={{
        paper: {
          'data-keys': 'booth',
          'aria-label': say`The script, large`,
          sx: { bgcolor: lamp.paper, color: lamp.ink },
        } as object,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', px: 2, py: 1, gap: 1, color: lamp.faintInk }}>
        <Box
          component="span"
          sx={{ color: mode === 'recording' ? lamp.vermilion : lamp.faintInk, fontSize: 18 }}
        >
          <Running recording={mode === 'recording'} />
        </Box>
        <Box sx={{ flex: 1 }} />
        <IconButton aria-label={say`Smaller text`} onClick={() => grow(-1)} sx={{ color: lamp.faintInk }}>
          <TextDecrease />
        </IconButton>
        <IconButton aria-label={say`Larger text`} onClick={() => grow(1)} sx={{ color: lamp.faintInk }}>
          <TextIncrease />
        </IconButton>
        <IconButton aria-label={say`Close the large script`} onClick={close} sx={{ color: lamp.faintInk }}>
          <Close />
        </IconButton>
      </Box>
      <Box sx={{ overflowY: 'auto', flex: 1, px: '8vw', pb: '45vh', pt: '20vh' }} data-testid="prompter">
        <ReadingLines part={part} size={size} ink={lamp.ink} faintInk={lamp.faintInk} />
      </Box>
      <ReadingDeck />
    </Dialog>
  );
}

/** What runs, and for how long: nobody reads an hour into nothing. */
function Running({ recording }: { recording: boolean }) {
  const ref = useRef<HTMLSpanElement>(null);
  const show = useCallback(() => {
    const { rateHz } = useProject.getState().project ?? { rateHz: 48_000 };
    const head = headFrame() ?? usePart.getState().caret;
    if (ref.current)
      ref.current.textContent = `${recording ? say`● recording ` : ''}${formatTime(head / rateHz)}`;
  }, [recording]);
  useTicks(100, true, show);
  return <span ref={ref} />;
}
