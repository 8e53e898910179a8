import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { formatTime } from '@/core/base/units';
import { useJob } from '@/state/page/jobs';
import { areOf, findTurns, useTurns } from '@/state/mix/turns';
import { rateOfProject, useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';
import { DuckSentence } from './DuckSentence';

/** Who speaks when and how much; each microphone softer while only others speak. */
export function ConversationPanel() {
  const timeline = usePart((state) => state.timeline);
  const readOnly = useProject((state) => state.readOnly);
  const found = useTurns();
  const busy = useJob((state) => state.job !== null);
  const voices = timeline.tracks.filter(({ side }) => !side);
  if (voices.length < 2) return null;
  const known = found.of !== null && areOf(found, timeline);
  return (
    <Box component="section" aria-label={say`Conversation`} sx={{ mt: 3, fontSize: 14 }}>
      <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>{say`Who speaks when`}</Typography>
      {voices.map(({ id, name }) => {
        const share = known ? found.shares.find(({ track }) => track === id) : undefined;
        return (
          <Box key={id} sx={{ mb: 1 }}>
            <Box>
              <Box component="span" sx={{ fontStyle: 'italic', fontWeight: 500 }}>
                {name}
              </Box>
              {share &&
                say` · ${Math.round(100 * share.share)} %, ${formatTime(share.frames / rateOfProject())} in ${share.turns} ${share.turns === 1 ? say`turn` : say`turns`}`}
            </Box>
            <DuckSentence stripId={id} of="voice" timeline={timeline} disabled={readOnly} />
          </Box>
        );
      })}
      <Button size="small" variant="outlined" disabled={busy} onClick={() => void findTurns()}>
        {known ? say`Find turns again` : say`Find turns`}
      </Button>
    </Box>
  );
}
