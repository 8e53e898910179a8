'use client';
import { decimal, say } from '@/texts/say';
import { __unsafe_useEmotionCache as useEmotionCache } from '@emotion/react';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { DataGrid, type GridColDef, type GridRowSelectionModel } from '@mui/x-data-grid';
import { useEffect, useMemo, useState } from 'react';
import { formatTime } from '@/core/base/units';
import { timecodeAt } from '@/core/cues/cueCsv';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import type { Cue } from '@/core/timeline/cues';
import { cueProgress, cueStates, overlappingCues } from '@/core/timeline/cueState';
import { useCueFiles } from '@/state/cues/cueFiles';
import {
  closeCueSheet,
  faultOfTyped,
  giveCues,
  isListed,
  placeCue,
  removeCues,
  useCues,
  writeCue,
} from '@/state/cues/cues';
import { notify } from '@/state/page/notices';
import { useProject, type SourceRecord } from '@/state/project/openProject';
import { redo, undo, usePart } from '@/state/sheet/part';
import { CueActions, CueDelivery } from './CueActions';
import { CueCharacters } from './CueCharacters';
import { takesByCue } from '@/state/recording/cuePlan';
import { chosenTake } from '@/state/recording/cueTakes';
import { circledNumber } from '../../components/circledNumber';
import { CueFilters } from './CueFilters';
import { CueImport } from './CueImport';
import { TimeCell } from './TimeCell';
import { CueTimeFields } from './CueTimeFields';
import { cueStateNames } from './cueWords';

interface Row {
  id: string;
  number: string;
  in: string;
  out: string;
  seconds: number;
  character: string;
  text: string;
  note: string;
  state: string;
  takes: string;
}

const none: GridRowSelectionModel = { type: 'include', ids: new Set() };

/** The cue sheet as a table: sorted, filtered, searched and edited, one cue or many at once. */
export function CueSheetDialog() {
  const open = useCues((state) => state.open);
  return open ? <CueSheet /> : null;
}

/**
 * The keys of the Booth rest while a dialog is open, and a button that can do no more leaves the focus to the
 * page. While text is written the keys are the field's.
 */
function undoKeys(event: globalThis.KeyboardEvent) {
  const key = event.key.toLowerCase();
  if (!(event.ctrlKey || event.metaKey) || (key !== 'z' && key !== 'y')) return;
  if ((event.target as HTMLElement).matches('input:not([type=checkbox]), textarea')) return;
  // Not what was typed last, somewhere else.
  event.preventDefault();
  void (event.shiftKey || key === 'y' ? redo() : undo());
}

function CueSheet() {
  const timeline = usePart((state) => state.timeline);
  const partId = usePart((state) => state.id);
  const partName = useProject((state) => state.parts.find(({ id }) => id === partId)?.name ?? '');
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const readOnly = useProject((state) => state.readOnly);
  const reading = useCueFiles((state) => state.list !== null || state.refusal !== null);
  const [selection, setSelection] = useState(none);
  const [people, setPeople] = useState(false);
  const [search, setSearch] = useState('');
  const character = useCues((state) => state.character);
  const toDoOnly = useCues((state) => state.toDoOnly);
  // The grid has styles of its own beside those of the theme: the page allows none without this.
  const nonce = useEmotionCache()?.nonce;
  const sources = useProject((state) => state.sources);
  const sheet = cueSheetOf(timeline);
  const listed = useMemo(() => {
    const states = cueStates(timeline);
    const known = cueSheetOf(timeline);
    const names = new Map(known.characters.map(({ id, name }) => [id, name]));
    const takes = takesByCue(sources.values());
    return known.cues
      .filter((cue) => isListed(cue, { character, toDoOnly }))
      .map((cue): Row => ({
        ...{ id: cue.id, number: cue.number, text: cue.text, note: cue.note },
        in: timecodeAt(cue.from, known, rateHz),
        out: timecodeAt(cue.to, known, rateHz),
        seconds: (cue.to - cue.from) / rateHz,
        character: names.get(cue.character ?? '') ?? '',
        state: cueStateNames[states.get(cue.id) ?? 'toDo'],
        takes: toldTakes(cue, takes.get(cue.id)),
      }));
  }, [timeline, sources, rateHz, character, toDoOnly]);
  const rows = useMemo(() => {
    const wanted = search.trim().toLocaleLowerCase('en');
    const all = ({ number, text, note, character: name }: Row) => `${number} ${name} ${text} ${note}`;
    return wanted === '' ? listed : listed.filter((row) => all(row).toLocaleLowerCase('en').includes(wanted));
  }, [listed, search]);
  const progress = useMemo(() => cueProgress(timeline).all, [timeline]);
  const overlaps = useMemo(() => overlappingCues(sheet.cues), [sheet.cues]);
  const selected = useMemo(() => {
    const all = rows.map(({ id }) => id);
    const ids =
      selection.type === 'include'
        ? all.filter((id) => selection.ids.has(id))
        : all.filter((id) => !selection.ids.has(id));
    return new Set(ids);
  }, [selection, rows]);
  const columns = useMemo(() => columnsFor(!readOnly), [readOnly]);

  /** Takes what was typed; what cannot be is told, and the cell stays as it was. */
  const update = (next: Row, before: Row): Row => {
    for (const end of ['in', 'out'] as const)
      if (next[end] !== before[end]) {
        const fault = placeCue(next.id, end === 'in' ? 'from' : 'to', next[end]);
        if (fault) {
          notify('error', fault, 'cues');
          return before;
        }
      }
    if (next.character !== before.character) giveCues(new Set([next.id]), next.character);
    const { number, text, note } = next;
    if (number !== before.number || text !== before.text || note !== before.note)
      writeCue(next.id, { number: number.slice(0, 40), text, note });
    return next;
  };
  useEffect(() => {
    window.addEventListener('keydown', undoKeys);
    return () => window.removeEventListener('keydown', undoKeys);
  }, []);
  return (
    <Dialog
      open
      fullScreen
      // Esc in a cell ends the editing of the cell, not the cue sheet.
      onClose={(event: { target: EventTarget }) =>
        !(event.target as Element).closest('.MuiDataGrid-cell--editing') && closeCueSheet()
      }
      aria-labelledby="cue-sheet-title"
    >
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2, px: 3, pt: 2 }}>
        <Typography
          id="cue-sheet-title"
          variant="h2"
          component="h1"
          sx={{ whiteSpace: 'nowrap' }}
        >{say`Cues of ${partName}`}</Typography>
        <Typography color="text.secondary" sx={{ flex: 1 }} role="status">
          {progress.all === 0
            ? say`none yet`
            : say`${progress.done} of ${progress.all} done, ${formatTime(progress.doneFrames / rateHz)} of ${formatTime(progress.frames / rateHz)}`}
          {overlaps.length > 0 &&
            say`; ${told(overlaps.length, 'runs', 'run')} into the next of the same character`}
        </Typography>
        <CueTimeFields />
      </Box>
      <DialogContent sx={{ display: 'flex', flexDirection: 'column', gap: 1.5, pt: '12px !important' }}>
        <CueActions selected={selected} readOnly={readOnly} />
        <Box sx={{ display: 'flex', gap: 2, alignItems: 'center' }}>
          <CueFilters />
          <Button size="small" onClick={() => setPeople(true)}>{say`Characters …`}</Button>
          <TextField
            size="small"
            placeholder={say`Search`}
            value={search}
            onChange={({ target }) => setSearch(target.value)}
            slotProps={{ htmlInput: { 'aria-label': say`Search the cues` } }}
            sx={{ width: 220, ml: 'auto' }}
          />
        </Box>
        <Box sx={{ flex: 1, minHeight: 0 }}>
          <DataGrid
            nonce={nonce}
            rows={rows}
            columns={columns}
            density="compact"
            label={say`Cues`}
            checkboxSelection
            disableRowSelectionOnClick
            rowSelectionModel={selection}
            onRowSelectionModelChange={setSelection}
            processRowUpdate={update}
            onCellKeyDown={(params, event) => {
              if (params.cellMode !== 'edit' && event.key === 'Delete') {
                // The grid would empty the cell.
                event.defaultMuiPrevented = true;
                if (!readOnly) removeCues(selected.size > 0 ? selected : new Set([String(params.id)]));
              }
            }}
            pageSizeOptions={[100]}
            initialState={{ pagination: { paginationModel: { pageSize: 100 } } }}
            localeText={{
              noRowsLabel: say`No cues yet: make them here, or read a list of them (CSV, WebVTT, SubRip).`,
            }}
            sx={{ border: 0, '--DataGrid-overlayHeight': '160px' }}
          />
        </Box>
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Typography
          variant="body2"
          color="text.secondary"
          sx={{ flex: 1 }}
        >{say`Enter edits a cell, Space chooses a row, Delete takes cues away, Ctrl+Z brings them back.`}</Typography>
        <CueDelivery />
        <Button variant="contained" onClick={closeCueSheet}>{say`Done`}</Button>
      </DialogActions>
      {people && <CueCharacters onClose={() => setPeople(false)} />}
      {reading && <CueImport />}
    </Dialog>
  );
}

const told = (count: number, one: string, many: string) => `${count} ${count === 1 ? one : many}`;

/** How many takes a cue has, and which is heard. */
function toldTakes(cue: Cue, takes: readonly SourceRecord[] = []): string {
  if (takes.length === 0) return '';
  const chosen = chosenTake(cue);
  const heard = takes.find(({ id }) => id === chosen);
  return [takes.length, heard && circledNumber(heard.take)].filter(Boolean).join(' · ');
}

/** Times are checked while they are typed. */
const timeCells = (end: 'from' | 'to'): Partial<GridColDef<Row>> => ({
  description: say`Timecode, or minutes and seconds from the beginning of the part: 1:23.5`,
  preProcessEditCellProps: ({ id, props }) => ({
    ...props,
    error: faultOfTyped(String(id), end, String(props.value)) !== null,
  }),
  renderEditCell: (params) => <TimeCell {...params} />,
});

function columnsFor(editable: boolean): GridColDef<Row>[] {
  const numeric = new Intl.Collator('en', { numeric: true });
  return [
    { field: 'number', headerName: say`No.`, width: 70, editable, sortComparator: numeric.compare },
    { field: 'in', headerName: say`In`, width: 116, editable, ...timeCells('from') },
    { field: 'out', headerName: say`Out`, width: 116, editable, ...timeCells('to') },
    {
      field: 'seconds',
      headerName: say`Length`,
      width: 84,
      type: 'number',
      valueFormatter: (value: number) => `${decimal(value, 1)} s`,
    },
    { field: 'character', headerName: say`Character`, width: 140, editable },
    { field: 'text', headerName: say`Text`, flex: 1, minWidth: 240, editable },
    { field: 'note', headerName: say`Note`, width: 150, editable },
    { field: 'takes', headerName: say`Takes`, width: 84 },
    { field: 'state', headerName: say`State`, width: 96 },
  ];
}
