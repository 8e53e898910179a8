'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useEffect } from 'react';
import { describeRms } from '@/core/specs/describe';
import { passes } from '@/core/specs/verdicts';
import { makeAllPass } from '@/state/proof/fixing';
import { useJob } from '@/state/page/jobs';
import { usePart } from '@/state/sheet/part';
import { cancelMeasuring, judgePart, measureParts, proofOf, useProofing } from '@/state/proof/proofing';
import { useProject } from '@/state/project/openProject';
import { ExportPanel } from './ExportPanel';
import { MeasureTable } from './MeasureTable';
import { OpenPart } from './OpenPart';

function MeasuringBar() {
  const percent = useProofing((state) => Math.round((state.measuring?.done ?? 0) * 100));
  return <LinearProgress variant="determinate" value={percent} aria-label={say`Measuring`} />;
}

/**
 * All parts against the spec, the open part with its faults and what mends them, and the files that will be
 * written.
 */
export function ProofView() {
  const { project, parts, readOnly } = useProject();
  const openId = usePart((state) => state.id);
  const timeline = usePart((state) => state.timeline);
  const measuringId = useProofing((state) => state.measuring?.partId ?? null);
  // Drawn anew when there is a result, not with every step of the measuring.
  useProofing((state) => state.results);
  const busy = useJob((state) => state.job !== null);
  const channels = project?.spec.file.channels;
  useEffect(() => {
    if (!busy) void measureParts();
  }, [timeline, channels, busy]);
  useEffect(() => cancelMeasuring, []);
  if (!project) return null;

  const proofs = parts.map(proofOf);
  const known = proofs.filter((proof) => proof !== null);
  const rows = parts.map((part, index) => {
    const proof = proofs[index];
    return { part, number: index + 1, proof, judged: proof && judgePart(proof, known) };
  });
  const measured = rows.flatMap(({ judged }) => (judged ? [judged] : []));
  const passing = measured.filter(({ verdicts }) => passes(verdicts)).length;
  const open = rows.find((row) => row.part.id === openId);
  return (
    <Box sx={{ flex: 1, display: 'flex', minHeight: 0 }}>
      <Box sx={{ flex: 1, minWidth: 0, overflowY: 'auto', bgcolor: 'background.paper', px: 3.25, py: 2.5 }}>
        <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2 }}>
          <Typography variant="h2" sx={{ flex: 1 }}>
            {measured.length === 0 && measuringId === null
              ? say`Nothing measured yet`
              : say`${passing} of ${rows.length} parts pass`}
          </Typography>
          {measuringId !== null ? (
            <Button size="small" color="inherit" onClick={cancelMeasuring}>{say`Stop measuring`}</Button>
          ) : (
            <>
              {measured.length < rows.filter(({ part }) => part.heardFrames > 0).length && (
                <Button
                  size="small"
                  color="inherit"
                  onClick={() => void measureParts()}
                >{say`Measure`}</Button>
              )}
              <Button
                size="small"
                variant="outlined"
                disabled={busy || readOnly || passing === measured.length}
                onClick={() => void makeAllPass()}
              >{say`Make every part pass`}</Button>
            </>
          )}
        </Box>
        <Typography
          color="text.secondary"
          variant="body2"
          sx={{ mb: 1.5 }}
        >{say`Measured on what is heard, in ${project.spec.file.channels === 1 ? say`mono` : say`stereo`}, by ITU-R BS.1770-5. ${describeRms(project.spec)}; room is the RMS of the pauses.`}</Typography>
        <Box sx={{ height: 6 }}>{measuringId !== null && <MeasuringBar />}</Box>
        <MeasureTable rows={rows} spec={project.spec} measuringId={measuringId} rateHz={project.rateHz} />
        {open?.proof && open.judged && (
          <OpenPart part={open.part} number={open.number} proof={open.proof} judged={open.judged} />
        )}
      </Box>
      <ExportPanel failing={measured.length - passing} />
    </Box>
  );
}
