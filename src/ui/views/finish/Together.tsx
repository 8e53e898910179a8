import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useCallback, useRef } from 'react';
import { hearAll, isPartial, useListening } from '@/state/hearing/listening';
import { headFrame, useTransport } from '@/state/hearing/transport';
import { evenOutVoices } from '@/state/mix/matching';
import { playedPeak, stripPeaks } from '@/state/mix/meters';
import { stripsOf, useMixing } from '@/state/mix/strips';
import { useJob } from '@/state/page/jobs';
import { allOfIt } from '@/core/timeline/mix';
import type { Timeline } from '@/core/timeline/timeline';
import { useTicks } from '../../hooks/useTicks';
import { StripRow } from './StripRow';
import { writeMeter } from './meter';

const meterEveryMs = 50;
/** What a button says stands on one line. */
const whole = { flexShrink: 0, whiteSpace: 'nowrap' };

/** Every voice and bed with its level, place and meter. */
export function Together({ timeline }: { timeline: Timeline }) {
  const rows = useRef<HTMLDivElement>(null);
  const playing = useTransport((state) => state.mode === 'playing');
  const chosen = useMixing((state) => state.chosen);
  const partial = useListening(isPartial);
  const busy = useJob((state) => state.job !== null);
  const tick = useCallback(() => {
    const head = headFrame();
    const peaks = head === null ? null : stripPeaks(timeline, head);
    const all = head === null ? -Infinity : playedPeak();
    for (const row of rows.current?.querySelectorAll<HTMLElement>('[data-strip]') ?? []) {
      const { strip = '' } = row.dataset;
      writeMeter(row, strip === allOfIt ? all : (peaks?.get(strip) ?? -Infinity), performance.now());
    }
  }, [timeline]);
  useTicks(meterEveryMs, playing, tick);
  const strips = stripsOf(timeline);
  return (
    <Box
      component="section"
      aria-labelledby="together"
      sx={{
        borderTop: 1,
        borderColor: 'divider',
        px: 2,
        pt: 1.25,
        pb: 1.5,
        maxHeight: '46%',
        overflowY: 'auto',
        flexShrink: 0,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5, mb: 0.5 }}>
        <Typography id="together" variant="h3" component="h2">{say`Together`}</Typography>
        <Typography
          variant="body2"
          role={partial ? 'status' : undefined}
          sx={{ flex: 1, color: partial ? 'warning.main' : 'text.secondary' }}
        >
          {partial
            ? say`Mute and solo change what you hear, not what is written.`
            : say`voices −12 to −6 dB at their peaks; the bed 12 to 18 LU under them`}
        </Typography>
        {partial && <Button size="small" sx={whole} onClick={hearAll}>{say`Hear all`}</Button>}
        {timeline.tracks.length > 1 && (
          <Button
            size="small"
            sx={whole}
            disabled={busy}
            onClick={() => void evenOutVoices()}
          >{say`Voices to one loudness`}</Button>
        )}
      </Box>
      <Box ref={rows}>
        {strips.map((strip) => (
          <StripRow key={strip.id} strip={strip} chosen={strip.id === (chosen ?? strips[0].id)} />
        ))}
      </Box>
    </Box>
  );
}
