import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { formatTime } from '@/core/base/units';
import { bedLimits, luUnder, type BedLimit } from '@/core/specs/underSpeech';
import { bedsOf } from '@/core/timeline/mixEdits';
import { clockOf } from '@/core/timeline/timeline';
import { measureUnder, useUnderSpeech } from '@/state/mix/ducking';
import { useJob } from '@/state/page/jobs';
import { rateOfProject } from '@/state/project/openProject';
import { setCaret, usePart } from '@/state/sheet/part';
import { ChoiceInPlace } from '../../components/ChoiceInPlace';

/** How far a bed lies under speech, passage by passage, against a limit. */
export function UnderSpeechPanel() {
  const timeline = usePart((state) => state.timeline);
  const partId = usePart((state) => state.id);
  const measured = useUnderSpeech((state) => state.measured);
  const busy = useJob((state) => state.job !== null);
  const [limit, setLimit] = useState<BedLimit>('usual');
  const beds = bedsOf(timeline);
  if (beds.length === 0) return null;
  const shown = measured?.partId === partId ? beds.find(({ id }) => id === measured.bedId) : undefined;
  const { mix } = timeline;
  const current = shown && measured?.mix?.strips === mix?.strips && measured?.mix?.beds === mix?.beds;
  return (
    <Box component="section" aria-label={say`The bed under speech`} sx={{ mt: 3, fontSize: 14 }}>
      <Typography variant="h3" component="h2">{say`Under speech`}</Typography>
      <Box sx={{ mb: 1 }}>
        {say`Limit: `}
        <ChoiceInPlace
          label={say`Limit of the bed under speech`}
          value={limit}
          choices={(Object.keys(bedLimits) as BedLimit[]).map((key) => ({ key, name: bedLimits[key].name }))}
          onChange={(key) => setLimit(key as BedLimit)}
        />
      </Box>
      {beds.map(({ id, name }) => (
        <Button
          key={id}
          size="small"
          variant="outlined"
          disabled={busy}
          onClick={() => void measureUnder(id)}
          sx={{ mr: 0.75, mb: 0.75 }}
        >{say`Measure ${name}`}</Button>
      ))}
      {shown && measured && (
        <>
          {!current && (
            <Typography
              variant="body2"
              color="warning.main"
              role="status"
            >{say`The mix has changed since it was measured.`}</Typography>
          )}
          <Box component="table" sx={{ width: '100%', borderCollapse: 'collapse', mt: 0.5 }}>
            <Box component="thead" sx={{ fontSize: 12, color: 'text.secondary', textAlign: 'left' }}>
              <tr>
                <Box component="th" sx={{ fontWeight: 400 }}>{say`Passage`}</Box>
                <Box component="th" sx={{ fontWeight: 400, textAlign: 'right' }}>
                  {say`${shown.name} under it`}
                </Box>
              </tr>
            </Box>
            <tbody>
              {measured.passages.map((passage) => {
                const under = luUnder(passage);
                const { leastLu, mostLu } = bedLimits[limit];
                const good = under !== null && under >= leastLu && under <= mostLu;
                return (
                  <tr key={passage.from}>
                    <td>
                      <Button
                        size="small"
                        color="inherit"
                        sx={{ minWidth: 0, px: 0.5, ml: -0.5, fontVariantNumeric: 'tabular-nums' }}
                        onClick={() => setCaret(clockOf(timeline).heardToSheet(passage.from))}
                      >
                        {formatTime(passage.from / rateOfProject())}–
                        {formatTime(passage.to / rateOfProject())}
                      </Button>
                    </td>
                    <Box
                      component="td"
                      sx={{
                        textAlign: 'right',
                        fontVariantNumeric: 'tabular-nums',
                        fontWeight: 600,
                        color: under === null ? 'text.secondary' : good ? 'success.main' : 'warning.main',
                      }}
                    >
                      {under === null
                        ? say`not heard`
                        : `${decimal(under, 1)} LU${good ? '' : under < leastLu ? say`, too loud` : say`, very soft`}`}
                    </Box>
                  </tr>
                );
              })}
            </tbody>
          </Box>
        </>
      )}
    </Box>
  );
}
