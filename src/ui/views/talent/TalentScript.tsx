'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useTalent } from '@/state/talent/talent';
import { serif } from '../../theme/theme';

/** What to read: the script with the line the studio is at, or the cue. */
export function TalentScript() {
  const { script, moving } = useTalent();
  const cue = moving?.cue;
  if (cue) {
    return (
      <Box sx={{ m: 'auto', px: '8%', textAlign: 'center' }} data-testid="talent-cue">
        <Typography color="text.secondary">
          {cue.number} {cue.character}
        </Typography>
        <Box sx={{ fontFamily: serif, fontSize: 40, lineHeight: 1.35, my: 2 }}>{cue.text}</Box>
        {cue.note && <Typography sx={{ fontStyle: 'italic' }}>{cue.note}</Typography>}
        {cue.next && <Typography color="text.secondary" sx={{ mt: 4 }}>{say`Then: ${cue.next}`}</Typography>}
      </Box>
    );
  }
  const lines = script?.lines ?? [];
  if (lines.length === 0)
    return (
      <Typography
        color="text.secondary"
        sx={{ m: 'auto', px: 4, textAlign: 'center' }}
      >{say`What there is to read comes here from the studio.`}</Typography>
    );
  return (
    <Box
      sx={{ flex: 1, overflowY: 'auto', px: '7%', py: '12vh' }}
      aria-label={say`Script of ${script?.part ?? ''}`}
    >
      {lines.map(({ text }, index) => (
        <Box
          key={index}
          ref={index === moving?.line ? keepInView : undefined}
          aria-current={index === moving?.line ? 'step' : undefined}
          sx={{
            fontFamily: serif,
            fontSize: 28,
            lineHeight: 1.45,
            py: 1,
            px: 1.5,
            borderLeft: 4,
            borderColor: index === moving?.line ? 'primary.main' : 'transparent',
            color: index === moving?.line ? 'text.primary' : 'text.secondary',
          }}
        >
          {text}
        </Box>
      ))}
    </Box>
  );
}

const keepInView = (line: HTMLElement | null) => line?.scrollIntoView({ block: 'center' });
