import { decimal, say } from '@/texts/say';
import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { WorkSum } from '@/core/keep/workLog';
import { ChartBox, useTooltipStyle } from '../../components/ChartBox';
import { usePage } from '../../theme/AppTheme';

/** Whoever looks sees whether it goes faster: as many of the latest as there is room for. */
const most = 24;

/** Finished minutes an hour of work, in order of time. */
export function PaceChart({ sums }: { sums: readonly WorkSum[] }) {
  const page = usePage();
  const tooltip = useTooltipStyle();
  const bars = sums.slice(-most).map(({ label, pace }) => ({ label, pace: pace ?? 0 }));
  return (
    <ChartBox
      label={say`Finished minutes an hour: ${bars.map(({ label, pace }) => `${label} ${decimal(pace, 1)}`).join(', ')}`}
    >
      <ResponsiveContainer width="100%" height="100%">
        <BarChart data={bars} margin={{ top: 6, right: 8, bottom: 0, left: -14 }} maxBarSize={36}>
          <CartesianGrid stroke={page.rule} vertical={false} />
          <XAxis dataKey="label" tick={false} stroke={page.faintInk} />
          <YAxis stroke={page.faintInk} fontSize={11} />
          <Tooltip
            contentStyle={tooltip}
            formatter={(value) => [say`${decimal(Number(value), 1)} finished minutes an hour`, '']}
            separator=""
          />
          <Bar dataKey="pace" fill={page.ink} isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
    </ChartBox>
  );
}
