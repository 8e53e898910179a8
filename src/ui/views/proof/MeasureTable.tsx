'use client';
import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TablePagination from '@mui/material/TablePagination';
import TableRow from '@mui/material/TableRow';
import { useState } from 'react';
import { formatDb, formatTime } from '@/core/base/units';
import type { Judgement } from '@/core/specs/judgeAmong';
import { measureLabels, type Measure } from '@/core/specs/measures';
import type { Limit, Spec } from '@/core/specs/spec';
import { describeLimit, passes, valueFor } from '@/core/specs/verdicts';
import { selectPart } from '@/state/sheet/parts';
import { usePart } from '@/state/sheet/part';
import { Contained } from '../../components/Contained';
import { WideTable } from '../../components/WideTable';
import type { PartProof } from '@/state/proof/proofing';
import type { PartRecord } from '@/state/project/openProject';

export interface ProofRow {
  part: PartRecord;
  number: number;
  proof: PartProof | null;
  judged: Judgement | null;
}

interface Props {
  rows: ProofRow[];
  spec: Spec;
  measuringId: string | null;
  rateHz: number;
}

const levels = [
  'integratedLufs',
  'rmsDbfs',
  'truePeakDbtp',
  'samplePeakDbfs',
  'noiseFloorDbfs',
  'loudnessRangeLu',
] as const;

/** A table of more parts has pages. */
const rowsPerPage = 200;

/** Limited measures first, each with its limits drawn; the others follow as plain numbers. */
export function MeasureTable({ rows, spec, measuringId, rateHz }: Props) {
  const limited = levels.filter((measure) => spec.limits[measure]);
  const rest = levels.filter((measure) => !spec.limits[measure]);
  const openId = usePart((state) => state.id);
  const [page, setPage] = useState(0);
  return (
    <WideTable label={say`Measures of the parts`}>
      <Table
        size="small"
        aria-label={say`Parts against the spec`}
        sx={{
          '& td, & th': { px: 0.75, whiteSpace: 'nowrap' },
          '& th': { color: 'text.secondary', fontSize: 12, verticalAlign: 'bottom' },
        }}
      >
        <TableHead>
          <TableRow>
            <TableCell>{say`Part`}</TableCell>
            <TableCell>{say`Verdict`}</TableCell>
            <TableCell>{say`Length`}</TableCell>
            {limited.map((measure) => (
              <TableCell key={measure}>
                {measureLabels[measure].name}
                <br />
                {describeLimit(measure, spec.limits[measure] as Limit)}
              </TableCell>
            ))}
            <TableCell>{say`Head / tail`}</TableCell>
            {rest.map((measure) => (
              <TableCell key={measure} align="right">
                {measureLabels[measure].name}
                <br />
                {measureLabels[measure].unit}
              </TableCell>
            ))}
          </TableRow>
        </TableHead>
        <TableBody>
          {rows.slice(page * rowsPerPage, (page + 1) * rowsPerPage).map((row) => (
            <Contained key={row.part.id} what={say`This part`} columns={4 + levels.length}>
              <TableRow
                hover
                selected={row.part.id === openId}
                onClick={() => void selectPart(row.part.id)}
                sx={{ cursor: 'pointer' }}
                data-testid={`proof-${row.number}`}
              >
                <TableCell sx={{ maxWidth: 150, overflow: 'hidden', textOverflow: 'ellipsis' }}>
                  {row.number} {row.part.name}
                </TableCell>
                <TableCell>
                  <Outcome row={row} measuring={measuringId === row.part.id} />
                </TableCell>
                <TableCell>
                  {formatTime(row.judged?.judged.durationSeconds ?? row.part.heardFrames / rateHz)}
                </TableCell>
                {limited.map((measure) => (
                  <TableCell key={measure}>
                    {row.judged && (
                      <Gauge
                        measure={measure}
                        value={valueFor(spec, measure, row.judged.judged) ?? -Infinity}
                        limit={spec.limits[measure] as Limit}
                      />
                    )}
                  </TableCell>
                ))}
                <TableCell>
                  {row.judged &&
                    `${decimal(row.judged.judged.headSeconds, 1)} / ${decimal(row.judged.judged.tailSeconds, 1)} s`}
                </TableCell>
                {rest.map((measure) => (
                  <TableCell key={measure} align="right">
                    {row.judged && formatDb(valueFor(spec, measure, row.judged.judged) ?? -Infinity, '')}
                  </TableCell>
                ))}
              </TableRow>
            </Contained>
          ))}
        </TableBody>
      </Table>
      {rows.length > rowsPerPage && (
        <TablePagination
          component="div"
          count={rows.length}
          page={page}
          rowsPerPage={rowsPerPage}
          rowsPerPageOptions={[rowsPerPage]}
          onPageChange={(_, next) => setPage(next)}
        />
      )}
    </WideTable>
  );
}

function Outcome({ row, measuring }: { row: ProofRow; measuring: boolean }) {
  if (measuring) return <>{say`measuring …`}</>;
  if (!row.judged)
    return (
      <Box sx={{ color: 'text.secondary' }}>
        {row.part.heardFrames === 0 ? say`not recorded` : say`not measured`}
      </Box>
    );
  const faults = row.judged.verdicts.filter((verdict) => !verdict.passes).length;
  return passes(row.judged.verdicts) ? (
    <Box sx={{ color: 'success.main', fontWeight: 700 }}>{say`Passes`}</Box>
  ) : (
    <Box sx={{ color: 'error.main', fontWeight: 700 }}>
      {faults} {faults === 1 ? say`fault` : say`faults`}
    </Box>
  );
}

/** What a gauge shows around the limits: levels outside it stick to its ends. */
const spans: Partial<Record<Measure, [number, number]>> = {
  integratedLufs: [-34, -10],
  rmsDbfs: [-32, -10],
  truePeakDbtp: [-14, 2],
  samplePeakDbfs: [-16, 0],
  noiseFloorDbfs: [-84, -48],
  loudnessRangeLu: [0, 25],
};

/**
 * A short scale with the allowed range tinted and a stroke at the value; the number beside it says it again.
 */
function Gauge({ measure, value, limit }: { measure: Measure; value: number; limit: Limit }) {
  const [low, high] = spans[measure] ?? [-60, 0];
  const percent = (at: number) => Math.min(100, Math.max(0, ((at - low) / (high - low)) * 100));
  const from = percent(limit.min ?? low);
  const to = percent(limit.max ?? high);
  const inside = (limit.min === null || value >= limit.min) && (limit.max === null || value <= limit.max);
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <Box
        sx={{
          position: 'relative',
          width: 60,
          height: 12,
          borderRadius: 1,
          bgcolor: 'page.wash',
          overflow: 'hidden',
        }}
      >
        <Box
          sx={{
            position: 'absolute',
            left: `${from}%`,
            width: `${to - from}%`,
            height: '100%',
            bgcolor: 'page.aim',
            borderInline: '1px solid',
            borderColor: 'success.main',
          }}
        />
        <Box
          sx={{
            position: 'absolute',
            left: `calc(${percent(value)}% - 2px)`,
            width: 4,
            height: '100%',
            bgcolor: inside ? 'text.primary' : 'error.main',
          }}
        />
      </Box>
      <Box
        component="span"
        sx={{
          fontVariantNumeric: 'tabular-nums',
          fontWeight: inside ? 400 : 700,
          color: inside ? undefined : 'error.main',
        }}
      >
        {formatDb(value, '')}
      </Box>
    </Box>
  );
}
