'use client';
import { decimal, say } from '@/texts/say';
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
    [say`Speech`, formatMeasure('rmsDbfs', speechDbfs), say`RMS while somebody speaks`],
    [
      say`Usual pause`,
      formatMeasure('longestPauseSeconds', usualPauseSeconds),
      say`the middle one of all pauses: spacing`,
    ],
    [say`Clipped samples`, String(clippedSamples), undefined],
    [say`Digital silence`, formatMeasure('headSeconds', digitalSilenceSeconds), undefined],
    ...(stereo
      ? ([
          [
            say`Sides`,
            stereo.identical ? say`the same` : say`correlation ${decimal(stereo.correlation, 2)}`,
            say`left against right`,
          ],
        ] as [string, string, string][])
      : []),
  ];
  return (
    <Box
      component="dl"
      aria-label={say`All figures`}
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
