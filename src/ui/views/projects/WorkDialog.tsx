import { decimal, say } from '@/texts/say';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { format } from '@/texts/dates';
import { useEffect, useState } from 'react';
import { sumsBy, type WorkSession, type WorkSum } from '@/core/keep/workLog';
import { readWork, saveWorkCsv, useWork } from '@/state/keep/workList';
import { notifyError } from '@/state/page/notices';
import { WideTable } from '../../components/WideTable';
import { PaceChart } from './PaceChart';

type By = 'session' | 'month' | 'project';

const labels: Record<By, (session: WorkSession) => string> = {
  session: ({ startedAt, projectName }) => `${format(startedAt, 'd MMM yyyy, HH:mm')} · ${projectName}`,
  month: ({ startedAt }) => format(startedAt, 'MMMM yyyy'),
  project: ({ projectName }) => projectName,
};

/** When was worked on what, how fast, and what was delivered. */
export function WorkDialog({ onClose }: { onClose: () => void }) {
  const { sessions } = useWork();
  const [by, setBy] = useState<By>('session');
  useEffect(() => {
    readWork().catch(notifyError);
  }, []);
  const sums = sumsBy(sessions ?? [], labels[by]);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <DialogTitle>{say`Work log`}</DialogTitle>
      <DialogContent>
        {sessions === null && <CircularProgress aria-label={say`Reading the work log`} />}
        {sessions?.length === 0 && (
          <Typography>{say`Nothing yet. A session is written down by itself once something is recorded, finished or delivered.`}</Typography>
        )}
        {sums.length > 0 && (
          <>
            <ToggleButtonGroup
              size="small"
              exclusive
              value={by}
              aria-label={say`Put together by`}
              onChange={(_, value: By | null) => value && setBy(value)}
              sx={{ mb: 1.5 }}
            >
              <ToggleButton value="session">{say`By session`}</ToggleButton>
              <ToggleButton value="month">{say`By month`}</ToggleButton>
              <ToggleButton value="project">{say`By project`}</ToggleButton>
            </ToggleButtonGroup>
            {sums.some(({ pace }) => pace !== null) && <PaceChart sums={sums} />}
            <Sums sums={[...sums].reverse()} />
          </>
        )}
      </DialogContent>
      <DialogActions>
        {sessions && sessions.length > 0 && (
          <Button color="inherit" onClick={() => saveWorkCsv(sessions)}>{say`Save as CSV`}</Button>
        )}
        <Button onClick={onClose} autoFocus>{say`Done`}</Button>
      </DialogActions>
    </Dialog>
  );
}

const shown = (value: number | null, digits = 0) => (value === null ? '–' : decimal(value, digits));

/** The last one first. */
function Sums({ sums }: { sums: readonly WorkSum[] }) {
  return (
    <WideTable label={say`Work`}>
      <Table size="small" sx={{ '& td, & th': { whiteSpace: 'nowrap', fontVariantNumeric: 'tabular-nums' } }}>
        <TableHead>
          <TableRow>
            <TableCell component="td" />
            <TableCell align="right">{say`Hours`}</TableCell>
            <TableCell align="right">{say`Takes`}</TableCell>
            <TableCell align="right">{say`Recorded min`}</TableCell>
            <TableCell align="right">{say`Finished min`}</TableCell>
            <TableCell
              align="right"
              title={say`Finished minutes an hour of work`}
            >{say`… an hour`}</TableCell>
            <TableCell align="right" title={say`Flubs a finished hour`}>{say`Flubs an hour`}</TableCell>
            <TableCell align="right">{say`Files`}</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {sums.map((sum) => (
            <TableRow key={sum.label}>
              <TableCell component="th" scope="row">
                {sum.label}
              </TableCell>
              <TableCell align="right">{decimal(sum.hours, 1)}</TableCell>
              <TableCell align="right">{sum.takes}</TableCell>
              <TableCell align="right">{decimal(sum.recordedMinutes, 1)}</TableCell>
              <TableCell align="right">{decimal(sum.finishedMinutes, 1).replace('-', '−')}</TableCell>
              <TableCell align="right">{shown(sum.pace, 1)}</TableCell>
              <TableCell align="right">{shown(sum.flubRate)}</TableCell>
              <TableCell align="right">{sum.delivered}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
    </WideTable>
  );
}
