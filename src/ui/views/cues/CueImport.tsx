'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMemo } from 'react';
import {
  columnMeanings,
  meaningNames,
  timeForms,
  type ColumnMeaning,
  type TimeForm,
} from '@/core/cues/cueColumns';
import { timecodeAt } from '@/core/cues/cueCsv';
import type { ReadCues } from '@/core/cues/cueList';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import {
  changeList,
  dropList,
  giveMeaning,
  readList,
  takeList,
  useCueFiles,
  type ListInHand,
} from '@/state/cues/cueFiles';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';
import { TimeFields } from './CueTimeFields';
import { WhatIsWrong } from '../../components/WhatIsWrong';

const timeFormNames: Readonly<Record<TimeForm, string>> = {
  timecode: say`Timecode, 01:02:03:04`,
  clock: say`Minutes and seconds, 1:23.45`,
  seconds: say`Seconds, 83.45`,
};

/** So many rows of a list are shown before it is taken, and so many of what could not be read. */
const shownRows = 8;
const shownFaults = 200;

/** A list before it is taken: what each column is taken for, what could be read and what not. */
export function CueImport() {
  const list = useCueFiles((state) => state.list);
  const refusal = useCueFiles((state) => state.refusal);
  return (
    <Dialog open onClose={dropList} fullWidth maxWidth="lg" aria-labelledby="cue-import-title">
      <DialogTitle id="cue-import-title">
        {list ? say`Cues of “${list.fileName}”` : say`This list cannot be read`}
      </DialogTitle>
      {list ? (
        <InHand list={list} />
      ) : (
        <>
          <DialogContent>
            <WhatIsWrong about="cues">{refusal}</WhatIsWrong>
          </DialogContent>
          <DialogActions>
            <Button onClick={dropList}>{say`Close`}</Button>
          </DialogActions>
        </>
      )}
    </Dialog>
  );
}

function InHand({ list }: { list: ListInHand }) {
  const there = usePart((state) => cueSheetOf(state.timeline).cues.length);
  const read = useMemo(() => readList(list), [list]);
  const { cues, faults } = read;
  return (
    <>
      <DialogContent sx={{ display: 'flex', flexDirection: 'column', gap: 2, pt: '8px !important' }}>
        {list.table && <Settings list={list} />}
        {list.table && <Columns list={list} />}
        <Told list={list} read={read} />
        {there > 0 && (
          <FormControlLabel
            control={
              <Checkbox
                checked={list.instead}
                onChange={(_, instead) => changeList({ instead })}
                size="small"
              />
            }
            label={say`In place of the ${there} cues that are there`}
          />
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={dropList}>{say`Cancel`}</Button>
        <Button
          variant="contained"
          disabled={cues.length === 0}
          onClick={takeList}
          autoFocus
        >{say`Take ${cues.length} ${cues.length === 1 ? say`cue` : say`cues`}${faults.length > 0 ? say`, leave out the rest` : ''}`}</Button>
      </DialogActions>
    </>
  );
}

function Settings({ list }: { list: ListInHand }) {
  const { times, rate, start, hasHeader } = list;
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1.5, alignItems: 'center' }}>
      <TextField
        select
        size="small"
        label={say`Times are`}
        value={times}
        onChange={({ target }) => changeList({ times: target.value as TimeForm })}
        sx={{ width: 260 }}
      >
        {timeForms.map((form) => (
          <MenuItem key={form} value={form}>
            {timeFormNames[form]}
          </MenuItem>
        ))}
      </TextField>
      {times === 'timecode' && (
        <TimeFields
          key={`${rate} ${start}`}
          rate={rate}
          start={start}
          onChange={(time) => changeList(time.rate === rate ? { start: time.start } : { rate: time.rate })}
        />
      )}
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={hasHeader}
            onChange={(_, checked) => changeList({ hasHeader: checked })}
          />
        }
        label={say`The first row names the columns`}
      />
    </Box>
  );
}

function Columns({ list: { table, meanings, hasHeader } }: { list: ListInHand }) {
  const rows = (table?.rows ?? []).slice(0, shownRows + (hasHeader ? 1 : 0));
  return (
    <Box sx={{ overflowX: 'auto', border: 1, borderColor: 'divider', borderRadius: 1, flexShrink: 0 }}>
      <Table size="small" aria-label={say`The list as it is in its file`}>
        <TableHead>
          <TableRow>
            {meanings.map((meaning, column) => (
              <TableCell key={column} sx={{ minWidth: 120 }}>
                <TextField
                  select
                  size="small"
                  variant="standard"
                  value={meaning}
                  onChange={({ target }) => giveMeaning(column, target.value as ColumnMeaning)}
                  slotProps={{ htmlInput: { 'aria-label': say`Column ${column + 1} is` } }}
                  fullWidth
                >
                  {columnMeanings.map((one) => (
                    <MenuItem key={one} value={one}>
                      {meaningNames[one]}
                    </MenuItem>
                  ))}
                </TextField>
              </TableCell>
            ))}
          </TableRow>
        </TableHead>
        <TableBody>
          {rows.map((cells, row) => (
            <TableRow key={row}>
              {cells.map((cell, column) => (
                <TableCell
                  key={column}
                  sx={{
                    maxWidth: 320,
                    overflow: 'hidden',
                    textOverflow: 'ellipsis',
                    whiteSpace: 'nowrap',
                    fontWeight: hasHeader && row === 0 ? 700 : undefined,
                    color: meanings[column] === 'ignored' ? 'text.disabled' : undefined,
                  }}
                >
                  {cell}
                </TableCell>
              ))}
            </TableRow>
          ))}
        </TableBody>
      </Table>
    </Box>
  );
}

function Told({ list, read: { cues, faults } }: { list: ListInHand; read: ReadCues }) {
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const at = (frame: number) => timecodeAt(frame, list, rateHz);
  const [first] = cues;
  const last = cues[cues.length - 1];
  return (
    <>
      <Typography role="status">
        {cues.length === 0
          ? say`No cue can be read yet: say which column holds where each begins.`
          : say`${cues.length} ${cues.length === 1 ? say`cue` : say`cues`}, the first at ${at(first.from)}: “${words(first.text)}”, the last at ${at(last.from)}.`}
      </Typography>
      {faults.length > 0 && (
        <WhatIsWrong about="cues" severity="warning" sx={{ '& .MuiAlert-message': { width: '100%' } }}>
          {say`${faults.length} ${faults.length === 1 ? say`row` : say`rows`} cannot be read:`}
          <Box
            component="ul"
            aria-label={say`Rows that cannot be read`}
            sx={{ m: 0, pl: 2.5, maxHeight: 160, overflowY: 'auto' }}
          >
            {faults.slice(0, shownFaults).map(({ row, reason, cells }) => (
              <li key={row}>
                {say`Row ${row}: ${reason}. `}
                <Box component="span" sx={{ color: 'text.secondary' }}>
                  {words(cells.filter(Boolean).join(' | '))}
                </Box>
              </li>
            ))}
            {faults.length > shownFaults && <li>{say`and ${faults.length - shownFaults} more`}</li>}
          </Box>
        </WhatIsWrong>
      )}
    </>
  );
}

const words = (text: string) => (text.length > 90 ? `${text.slice(0, 90)}…` : text);
