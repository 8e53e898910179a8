import Box from '@mui/material/Box';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { armedNow, useInput } from '@/state/recording/input';
import { useView } from '@/state/page/view';
import { LevelWord } from './LevelBar';
import { useAim } from './LevelProfileChoice';
import { ReadingDeck } from './ReadingDeck';
import { ReadingLines } from './ReadingLines';

/** So large are letters at most where a line has room for a few words. */
const mostSize = 30;

/** The Booth on a phone: the script to read from, the level in a word, and the deck under a thumb. */
export function PhoneBooth() {
  const partId = usePart((state) => state.id);
  const part = useProject((state) => state.parts.find(({ id }) => id === partId));
  const size = useView((state) => state.prompterSize);
  const open = useInput((state) => state.status === 'open');
  const aim = useAim();
  if (!part) return null;
  return (
    <>
      <Box
        data-testid="phone-script"
        sx={{ flex: 1, minHeight: 0, overflowY: 'auto', px: 2.5, py: '18vh', bgcolor: 'background.paper' }}
      >
        <ReadingLines
          part={part}
          size={Math.min(size, mostSize)}
          ink="text.primary"
          faintInk="text.secondary"
        />
      </Box>
      <Box sx={{ borderTop: 1, borderColor: 'divider', flexShrink: 0 }}>
        {open && <LevelWord channel={armedNow()[0]?.channel ?? 0} aim={aim} />}
        <ReadingDeck />
      </Box>
    </>
  );
}
