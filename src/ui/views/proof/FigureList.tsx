'use client';
import Box from '@mui/material/Box';
import type { Judgement } from '@/core/specs/judgeAmong';
import { measureLabels, measures, type Measure } from '@/core/specs/measures';
import type { Spec } from '@/core/specs/spec';
import { formatMeasure, valueFor } from '@/core/specs/verdicts';
import type { PartProof } from '@/state/proof/proofing';

/** Everything that was measured of the open part, limited or not. */
export function FigureList({
  judged: { judged },
  spec,
  proof,
}: {
  judged: Judgement;
  spec: Spec;
  proof: PartProof;
}) {
  const { stereo, clippedSamples, digitalSilenceSeconds, speechDbfs, usualPauseSeconds } = proof.measurement;
  const figures: [string, string, string | undefined][] = [
    ...measures.flatMap((measure: Measure) => {
      const value = valueFor(spec, measure, judged);
      const { name, about } = measureLabels[measure];
      return value === undefined
        ? []
        : [[name, formatMeasure(measure, value), about] as [string, string, string | undefined]];
    }),
    ['Speech', formatMeasure('rmsDbfs', speechDbfs), 'RMS while somebody speaks'],
    [
      'Usual pause',
      formatMeasure('longestPauseSeconds', usualPauseSeconds),
      'the middle one of all pauses: spacing',
    ],
    ['Clipped samples', String(clippedSamples), undefined],
    ['Digital silence', formatMeasure('headSeconds', digitalSilenceSeconds), undefined],
    ...(stereo
      ? ([
          [
            'Sides',
            stereo.identical ? 'the same' : `correlation ${stereo.correlation.toFixed(2)}`,
            'left against right',
          ],
        ] as [string, string, string][])
      : []),
  ];
  return (
    <Box
      component="dl"
      aria-label="All figures"
      sx={{
        display: 'grid',
        gridTemplateColumns: 'repeat(auto-fill, minmax(150px, 1fr))',
        columnGap: 3,
        rowGap: 1.25,
        mt: 2.5,
        mb: 1,
      }}
    >
      {figures.map(([name, value, about]) => (
        <Box key={name} title={about}>
          <Box component="dt" sx={{ fontSize: 12, color: 'text.secondary' }}>
            {name}
          </Box>
          <Box component="dd" sx={{ m: 0, fontVariantNumeric: 'tabular-nums' }}>
            {value}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
