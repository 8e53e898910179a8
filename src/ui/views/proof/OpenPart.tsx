'use client';
import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { formatDb } from '@/core/base/units';
import { stepsOn } from '@/core/chain/chain';
import { stripOf } from '@/core/timeline/mixEdits';
import type { Judgement } from '@/core/specs/judgeAmong';
import { describeOutput } from '@/core/specs/fixText';
import { measureLabels } from '@/core/specs/measures';
import { formatMeasure, valueFor } from '@/core/specs/verdicts';
import {
  applyFixes,
  planOf,
  planOpenPart,
  promiseOf,
  setMostReduction,
  takeOffOutput,
  useFixing,
} from '@/state/proof/fixing';
import { usePart } from '@/state/sheet/part';
import { measureSpectrum, timelineOf, useProofing, type PartProof } from '@/state/proof/proofing';
import { useProject, type PartRecord } from '@/state/project/openProject';
import { FaultList } from './FaultList';
import { FigureList } from './FigureList';
import { HistogramChart } from './HistogramChart';
import { LoudnessChart } from './LoudnessChart';
import { SpectrumChart } from './SpectrumChart';

const charts = {
  time: [say`Over time`, say`short-term loudness, 3 s, LUFS`],
  levels: [say`Levels`, say`how long it is at each level: RMS of 50 ms, dBFS`],
  spectrum: [say`Spectrum`, say`long-term mean in third-octave bands, dBFS`],
} as const;
type Chart = keyof typeof charts;

interface Props {
  part: PartRecord;
  number: number;
  proof: PartProof;
  judged: Judgement;
}

/** The open part: its level over time, what is wrong with it, and what mends that. */
export function OpenPart({ part, number, proof, judged }: Props) {
  const project = useProject((state) => state.project);
  const [chart, setChart] = useState<Chart>('time');
  const spectrum = useProofing((state) => state.spectra.get(part.id)?.bands ?? null);
  const output = usePart((state) => state.timeline.output);
  const { planning } = useFixing();
  const { measurement } = proof;
  useEffect(() => {
    void planOpenPart();
  }, [proof, project?.spec]);
  useEffect(() => {
    if (chart === 'spectrum') void measureSpectrum(part);
  }, [chart, part, proof]);
  if (!project) return null;
  const { spec } = project;
  const timeline = timelineOf(part);
  const chained = timeline.tracks
    .filter(({ id }) => stepsOn(stripOf(timeline, id).chain).length > 0)
    .map(({ name }) => name);
  const plan = planOf(part);
  const fixes = plan ? Object.keys(plan.texts).length : 0;
  return (
    <Box component="section" aria-label={say`The open part`}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 3, mb: 1, flexWrap: 'wrap' }}>
        <Typography variant="h3">
          {number} {part.name}
        </Typography>
        <ToggleButtonGroup
          size="small"
          exclusive
          value={chart}
          onChange={(_, chosen: Chart | null) => chosen && setChart(chosen)}
          aria-label={say`Chart`}
        >
          {(Object.keys(charts) as Chart[]).map((key) => (
            <ToggleButton key={key} value={key} sx={{ py: 0.25, textTransform: 'none' }}>
              {charts[key][0]}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Typography color="text.secondary" variant="caption" sx={{ flex: 1 }}>
          {charts[chart][1]}
        </Typography>
        {planning === part.id && (
          <Typography
            color="text.secondary"
            variant="body2"
          >{say`Looking for what would mend it …`}</Typography>
        )}
        {planning !== part.id && fixes > 0 && (
          <Button variant="contained" size="small" onClick={() => applyFixes()}>
            {plan?.left.length ? say`Carry out` : say`Make it pass:`}{' '}
            {fixes === 1 ? say`1 fix` : say`${fixes} fixes`}
          </Button>
        )}
      </Box>
      {chart === 'time' && <LoudnessChart measurement={measurement} spec={spec} />}
      {chart === 'levels' && <HistogramChart measurement={measurement} />}
      {chart === 'spectrum' && <SpectrumChart bands={spectrum} />}
      {fixes > 0 && plan && plan.left.length > 0 && (
        <Typography
          variant="body2"
          role="note"
          sx={{ color: 'warning.main', pt: 0.5 }}
        >{say`What stays after ${fixes === 1 ? say`this fix` : say`these fixes`}: ${plan.left.join(', ')}.`}</Typography>
      )}
      {fixes > 0 && (
        <Line>
          <Prediction plan={plan} />
          <Box sx={{ flex: 1 }} />
          <LimiterChoice />
        </Line>
      )}
      {output && (
        <Line>
          <span>
            {say`Heard and written with: `}
            <b>{describeOutput(output)}</b>
            {proof.reductionDb > 0 && say`; the limiter takes at most ${formatDb(proof.reductionDb)} off`}
            <Kept part={part} judged={judged} />
          </span>
          <Button
            size="small"
            color="inherit"
            sx={{ flexShrink: 0 }}
            onClick={() => takeOffOutput()}
          >{say`Take off`}</Button>
        </Line>
      )}
      {chained.length > 0 && (
        <Line>
          <span>
            {spec.unprocessed
              ? say`Written without its chain: this client wants the voice unprocessed.`
              : say`Through ${chained.length === 1 ? say`the chain` : say`the chains`} of ${chained.join(say` and `)}.`}
          </span>
          <Button
            size="small"
            color="inherit"
            component={Link}
            href={`/project/${project.id}/finish`}
          >{say`To Finish`}</Button>
        </Line>
      )}
      <FaultList part={part} judged={judged} measurement={measurement} plan={plan} />
      <FigureList judged={judged} spec={spec} proof={proof} />
    </Box>
  );
}

function Line({ children }: { children: React.ReactNode }) {
  return <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, py: 0.75, fontSize: 14 }}>{children}</Box>;
}

/** What the rehearsal of the whole plan has measured. */
function Prediction({ plan }: { plan: ReturnType<typeof planOf> }) {
  const spec = useProject((state) => state.project?.spec);
  const predicted = plan?.levels?.predicted;
  if (!predicted || !spec) return null;
  const shown = (['integratedLufs', 'rmsDbfs', 'truePeakDbtp', 'samplePeakDbfs', 'noiseFloorDbfs'] as const)
    .filter((measure) => spec.limits[measure])
    .map((measure) => {
      const value = valueFor(spec, measure, predicted) ?? -Infinity;
      return `${measureLabels[measure].name} ${formatMeasure(measure, value)}`;
    });
  const reduction = plan.levels?.reductionDb ?? 0;
  return (
    <Typography variant="body2" color="text.secondary">
      {say`Rehearsed: ${shown.join(', ')}`}
      {reduction > 0.05 && say`; the limiter takes at most ${formatDb(reduction)} off`}
    </Typography>
  );
}

/** Whether the last fix kept what it had promised. */
function Kept({ part, judged }: { part: PartRecord; judged: Judgement }) {
  const promise = promiseOf(part);
  if (!promise) return null;
  const worst = (['integratedLufs', 'rmsDbfs', 'truePeakDbtp', 'samplePeakDbfs'] as const).reduce(
    (most, measure) => {
      const off = Math.abs(promise[measure] - judged.judged[measure]);
      return Number.isFinite(off) ? Math.max(most, off) : most;
    },
    0,
  );
  return (
    <>
      {say` · measured afterwards: ${worst < 0.005 ? say`exactly` : say`within ${decimal(worst, 2)} dB of`} what was predicted`}
    </>
  );
}

function LimiterChoice() {
  const { mostReductionDb } = useFixing();
  return (
    <TextField
      select
      size="small"
      variant="standard"
      label={say`The limiter may take`}
      value={mostReductionDb}
      onChange={(event) => setMostReduction(Number(event.target.value))}
      sx={{ minWidth: 140 }}
    >
      {[0, 1, 2, 3, 4, 6, 9, 12].map((db) => (
        <MenuItem key={db} value={db}>
          {db === 0 ? say`nothing` : say`at most ${db} dB`}
        </MenuItem>
      ))}
    </TextField>
  );
}
