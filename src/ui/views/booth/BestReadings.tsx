'use client';
import { decimal, say } from '@/texts/say';
import PlayArrow from '@mui/icons-material/PlayArrow';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Radio from '@mui/material/Radio';
import Typography from '@mui/material/Typography';
import { formatTime } from '@/core/base/units';
import { setCaret, usePart } from '@/state/sheet/part';
import { playRange } from '@/state/hearing/playing';
import { chooseReading, layOutChosen, readingGroups, useReadings } from '@/state/finds/readings';
import { useProject } from '@/state/project/openProject';
import { useOpenProposals } from './useOpenProposals';

const spacings = [0.4, 0.6, 0.8, 1.2] as const;

/** Lines that were read several times: one reading of each stays, laid out with one spacing. */
export function BestReadings() {
  // Groups are made of the sheet, the script and what was found.
  usePart((state) => state.timeline);
  useProject((state) => state.parts);
  useOpenProposals();
  const { chosen, spacing } = useReadings();
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const readOnly = useProject((state) => state.readOnly);
  const groups = readingGroups();
  if (groups.length === 0) return null;
  return (
    <Box
      component="section"
      aria-label={say`Best of the readings`}
      sx={{ borderTop: 1, borderColor: 'divider', pb: 2 }}
    >
      <Typography
        variant="h3"
        component="h2"
        sx={{ px: 2, pt: 1.5, fontSize: 13 }}
      >{say`Best of the readings`}</Typography>
      {groups.map(({ key, title, readings }) => (
        <Box key={key} role="radiogroup" aria-label={title} sx={{ px: 2, pt: 0.5 }}>
          <Typography variant="body2" noWrap title={title}>
            {title}
          </Typography>
          {readings.map((range, index) => (
            <Box key={range.from} sx={{ display: 'flex', alignItems: 'center', height: 30 }}>
              <Radio
                size="small"
                checked={(chosen.get(key) ?? readings.length - 1) === index}
                onChange={() => chooseReading(key, index)}
                slotProps={{ input: { 'aria-label': say`Reading ${index + 1} of ${readings.length}` } }}
              />
              <Button
                size="small"
                color="inherit"
                onClick={() => setCaret(range.from)}
                sx={{ fontVariantNumeric: 'tabular-nums' }}
              >
                {formatTime(range.from / rateHz, true)} · {decimal((range.to - range.from) / rateHz, 1)} s
              </Button>
              <Box sx={{ flex: 1 }} />
              <IconButton
                size="small"
                aria-label={say`Hear reading ${index + 1}`}
                onClick={() => void playRange(range)}
              >
                <PlayArrow fontSize="small" />
              </IconButton>
            </Box>
          ))}
        </Box>
      ))}
      <Box sx={{ px: 2, pt: 1, display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Typography variant="body2">{say`Spacing`}</Typography>
        {spacings.map((value) => (
          <Button
            key={value}
            size="small"
            color="inherit"
            aria-pressed={value === spacing}
            onClick={() => useReadings.setState({ spacing: value })}
            sx={{ minWidth: 0, px: 0.75, bgcolor: value === spacing ? 'action.selected' : undefined }}
          >
            {value} s
          </Button>
        ))}
      </Box>
      <Box sx={{ px: 2, pt: 0.5 }}>
        <Button
          size="small"
          variant="outlined"
          disabled={readOnly}
          onClick={layOutChosen}
        >{say`Lay out the chosen ones`}</Button>
      </Box>
    </Box>
  );
}
