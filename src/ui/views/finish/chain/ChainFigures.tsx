import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { formatDb } from '@/core/base/units';
import { measureLabels, type Measure } from '@/core/specs/measures';
import type { Spec } from '@/core/specs/spec';
import { formatMeasure, valueFor } from '@/core/specs/verdicts';
import type { Measurement } from '@/core/loudness/measure';
import type { Timeline } from '@/core/timeline/timeline';
import { endMeasuringChain, measuresOf, useChainMeasures } from '@/state/chain/chainMeasures';
import { chainOf, shownVoice, voiceSounding } from '@/state/chain/chains';
import { useMixing } from '@/state/mix/strips';
import { useProject } from '@/state/project/openProject';

const told: readonly Measure[] = [
  'rmsDbfs',
  'samplePeakDbfs',
  'truePeakDbtp',
  'noiseFloorDbfs',
  'integratedLufs',
  'loudnessRangeLu',
];

/** Whether a value is inside the client's limits; null where there are none. */
function isInside(spec: Spec, measure: Measure, value: number | undefined): boolean | null {
  const limit = spec.limits[measure];
  if (!limit || value === undefined) return null;
  return value >= (limit.min ?? -Infinity) && value <= (limit.max ?? Infinity);
}

/** What the shown voice measures, as it was recorded and finished, against the client's limits. */
export function ChainFigures({ timeline }: { timeline: Timeline }) {
  const chosen = useMixing((state) => state.chosen);
  const spec = useProject((state) => state.project?.spec);
  const measured = useChainMeasures((state) => state.measured);
  const measuring = useChainMeasures((state) => state.measuring);
  const voice = shownVoice(timeline, chosen);
  if (voice === null || !spec || chainOf(timeline, voice).steps.length === 0) return null;
  const known = measuresOf(voiceSounding(timeline, voice), { measured });
  const shown = known ?? measured?.result ?? null;
  const name = timeline.tracks.find(({ id }) => id === voice)?.name ?? '';
  return (
    <Box component="section" aria-label={say`Recorded and finished`} sx={{ mb: 3, fontSize: 14 }}>
      <Typography variant="h3" component="h2">
        {say`${name}, before its level`}
      </Typography>
      {measuring !== null && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <LinearProgress
            variant="determinate"
            value={100 * measuring}
            sx={{ flex: 1 }}
            aria-label={say`Measuring the chain`}
          />
          <Button
            size="small"
            color="inherit"
            onClick={endMeasuringChain}
            aria-label={say`End measuring the chain`}
            sx={{ py: 0 }}
          >{say`Stop`}</Button>
        </Box>
      )}
      {shown && (
        <>
          <Box
            component="table"
            sx={{
              width: '100%',
              borderCollapse: 'collapse',
              mt: 0.5,
              opacity: known ? 1 : 0.55,
              fontVariantNumeric: 'tabular-nums',
              '& td, & th': { py: 0.25, textAlign: 'right', fontWeight: 400, whiteSpace: 'nowrap' },
              '& td:first-of-type, & th:first-of-type': { textAlign: 'left' },
            }}
          >
            <Box component="thead" sx={{ fontSize: 12, color: 'text.secondary' }}>
              <tr>
                <th>
                  <Box
                    component="span"
                    sx={{ position: 'absolute', clip: 'rect(0 0 0 0)' }}
                  >{say`Measure`}</Box>
                </th>
                <th>{say`recorded`}</th>
                <th>{say`finished`}</th>
              </tr>
            </Box>
            <tbody>
              {told.map((measure) => (
                <Figure
                  key={measure}
                  measure={measure}
                  spec={spec}
                  recorded={shown.recorded}
                  finished={shown.finished}
                />
              ))}
              <tr>
                <td>{say`Speech over room`}</td>
                <td>{formatDb(shown.work.recorded.speechDbfs - shown.work.recorded.roomDbfs)}</td>
                <td>
                  <b>{formatDb(shown.work.finished.speechDbfs - shown.work.finished.roomDbfs)}</b>
                </td>
              </tr>
            </tbody>
          </Box>
          <Lifted liftedDb={shown.work.roomLiftedDb} />
        </>
      )}
      {spec.unprocessed && (
        <Typography
          variant="body2"
          color="warning.main"
          sx={{ mt: 0.5 }}
        >{say`“${spec.name}” wants the voice unprocessed: what is delivered goes without the chain.`}</Typography>
      )}
    </Box>
  );
}

function Figure({
  measure,
  spec,
  recorded,
  finished,
}: {
  measure: Measure;
  spec: Spec;
  recorded: Measurement;
  finished: Measurement;
}) {
  const [before, after] = [valueFor(spec, measure, recorded), valueFor(spec, measure, finished)];
  if (before === undefined || after === undefined) return null;
  const inside = isInside(spec, measure, after);
  const short = (value: number) => formatMeasure(measure, value).replace(/ (dBFS|dBTP|LUFS|LU|dB)$/, '');
  return (
    <tr>
      <td>{measureLabels[measure].name}</td>
      <td>{short(before)}</td>
      <Box
        component="td"
        title={
          inside === null
            ? undefined
            : inside
              ? say`within the client’s limits`
              : say`outside the client’s limits`
        }
        sx={{ color: inside === null ? undefined : inside ? 'success.main' : 'warning.main' }}
      >
        <b>{short(after)}</b>
      </Box>
    </tr>
  );
}

/** A chain that makes things louder brings the room with it. */
const worthTellingDb = 1;

function Lifted({ liftedDb }: { liftedDb: number }) {
  if (!Number.isFinite(liftedDb) || Math.abs(liftedDb) < worthTellingDb) return null;
  return (
    <Typography variant="body2" color={liftedDb > 3 ? 'warning.main' : 'text.secondary'} sx={{ mt: 0.5 }}>
      {liftedDb > 0
        ? say`The chain brings the room ${formatDb(liftedDb)} nearer to the voice.`
        : say`The chain takes the room ${formatDb(-liftedDb)} further from the voice.`}
    </Typography>
  );
}
