'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useEffect } from 'react';
import { judge, passes } from '@/core/specs/verdicts';
import { usePart } from '@/state/part';
import { cancelMeasuring, measureParts, soundOf, useProofing } from '@/state/proofing';
import { useSession } from '@/state/session';
import { ExportPanel } from './ExportPanel';
import { LoudnessChart } from './LoudnessChart';
import { MeasureTable } from './MeasureTable';
import { VerdictList } from './VerdictList';

/** All parts against the spec, the open part over time with its faults, and the files that will be written. */
export function ProofView() {
  const { project, parts } = useSession();
  const openId = usePart((state) => state.id);
  usePart((state) => state.timeline);
  const { results, measuring } = useProofing();
  useEffect(() => {
    void measureParts();
    return cancelMeasuring;
  }, []);
  if (!project) return null;

  const rows = parts.map((part, index) => {
    const result = results.get(part.id);
    const measurement = result && result.of === soundOf(part.id) ? result.measurement : null;
    return {
      part,
      number: index + 1,
      measurement,
      verdicts: measurement ? judge(project.spec, measurement) : null,
    };
  });
  const measured = rows.filter((row) => row.verdicts);
  const passing = measured.filter((row) => row.verdicts && passes(row.verdicts)).length;
  const open = rows.find((row) => row.part.id === openId);
  return (
    <Box sx={{ flex: 1, display: 'flex', minHeight: 0 }}>
      <Box sx={{ flex: 1, minWidth: 0, overflowY: 'auto', bgcolor: 'background.paper', px: 3.25, py: 2.5 }}>
        <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2 }}>
          <Typography variant="h2" sx={{ flex: 1 }}>
            {measured.length === 0 && !measuring
              ? 'Nothing measured yet'
              : `${passing} of ${rows.length} parts pass`}
          </Typography>
          {measuring ? (
            <Button size="small" color="inherit" onClick={cancelMeasuring}>
              Stop measuring
            </Button>
          ) : (
            <Button size="small" color="inherit" onClick={() => void measureParts()}>
              Measure again
            </Button>
          )}
        </Box>
        <Typography color="text.secondary" variant="body2" sx={{ mb: 1.5 }}>
          Measured in heard time by ITU-R BS.1770-5. RMS of the whole part against full scale 1.0 (a
          full-scale sine is −3.01 dBFS); room is the RMS of the pauses.
        </Typography>
        <Box sx={{ height: 6 }}>
          {measuring && (
            <LinearProgress variant="determinate" value={measuring.done * 100} aria-label="Measuring" />
          )}
        </Box>
        <MeasureTable
          rows={rows}
          spec={project.spec}
          measuringId={measuring?.partId ?? null}
          rateHz={project.rateHz}
        />
        {open?.measurement && open.verdicts && (
          <>
            <Box sx={{ display: 'flex', alignItems: 'baseline', mt: 3, mb: 1 }}>
              <Typography variant="h3" sx={{ flex: 1 }}>
                {open.number} {open.part.name}
              </Typography>
              <Typography color="text.secondary" variant="body2">
                short-term loudness, 3 s, LUFS
              </Typography>
            </Box>
            <LoudnessChart measurement={open.measurement} spec={project.spec} />
            <VerdictList verdicts={open.verdicts} clippedSamples={open.measurement.clippedSamples} />
          </>
        )}
      </Box>
      <ExportPanel failing={measured.length - passing} />
    </Box>
  );
}
