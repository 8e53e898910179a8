import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import { goToLine } from '@/state/script/script';
import type { PartRecord } from '@/state/project/openProject';
import { SpokenText, useNameFinder } from '../../components/SpokenText';
import { serif } from '../../theme/theme';

interface Props {
  part: PartRecord;
  /** Of the letters, in pixels. */
  size: number;
  ink: string;
  faintInk: string;
}

/** The script of a part as it is read from: the line that is read in ink, and always in the middle. */
export function ReadingLines({ part, size, ink, faintInk }: Props) {
  const finder = useNameFinder();
  const { script, currentLine } = part;
  if (script.length === 0) return say`No script yet. Paste it in the Brief.`;
  return script.map((line, index) => (
    <Box
      key={line.id}
      component="button"
      ref={index === currentLine ? keepInView : undefined}
      onMouseDown={(event: { preventDefault: () => void }) => event.preventDefault()}
      onClick={() => goToLine(index)}
      aria-current={index === currentLine ? 'step' : undefined}
      sx={{
        display: 'block',
        width: '100%',
        textAlign: 'left',
        border: 0,
        bgcolor: 'transparent',
        fontFamily: serif,
        fontSize: size,
        lineHeight: 1.4,
        py: 1.5,
        color: index === currentLine ? ink : faintInk,
        opacity: index < currentLine ? 0.55 : 1,
      }}
    >
      <SpokenText text={line.text} finder={finder} />
    </Box>
  ));
}

const keepInView = (line: HTMLElement | null) => line?.scrollIntoView({ block: 'center' });
