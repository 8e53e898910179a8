'use client';
import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Typography from '@mui/material/Typography';
import { useMemo, useState } from 'react';
import { sourcesOf } from '@/core/timeline/timeline';
import { usePart } from '@/state/sheet/part';
import { takesOf } from '@/state/recording/recordPlan';
import { useProject, type SourceRecord } from '@/state/project/openProject';
import {
  chooseOnly,
  equalGains,
  hearInSelection,
  playCompared,
  restoreTake,
  stackOfSelection,
  useTakes,
  moveTakes,
} from '@/state/recording/takes';
import { useTransport } from '@/state/hearing/transport';
import { useKeyText } from '../../commands/keys';
import { circledNumber } from '../../components/circledNumber';
import { VirtualList } from '../../components/VirtualList';
import { TakeExportDialog } from './TakeExportDialog';
import { TakeRow } from './TakeRow';

/** Every recording of this part; a take stays here whatever was done to it on the sheet. */
export function TakeList() {
  const partId = usePart((state) => state.id);
  const timeline = usePart((state) => state.timeline);
  const sources = useProject((state) => state.sources);
  const chosen = useTakes((state) => state.chosen);
  const keyText = useKeyText();
  const all = useMemo(() => takesOf(partId, sources.values(), true), [sources, partId]);
  const takes = all.filter((take) => !take.deleted);
  const shown = useMemo(() => [...all].sort((a, b) => Number(!!a.deleted) - Number(!!b.deleted)), [all]);
  const used = useMemo(() => sourcesOf(timeline), [timeline]);
  if (all.length === 0) {
    return (
      <Typography
        color="text.secondary"
        sx={{ p: 2.5 }}
      >{say`No takes yet. Choose an input above, then press ${keyText('record')}.`}</Typography>
    );
  }
  const picked = takes.filter((take) => chosen.has(take.id));
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <SelectionStack />
      <VirtualList
        items={shown}
        keyOf={({ id }) => id}
        nameOf={({ name, deleted }) => (deleted ? say`${name}, deleted` : name)}
        estimate={({ deleted }) => (deleted ? 62 : 165)}
        row={(take) =>
          take.deleted ? (
            <DeletedTake take={take} />
          ) : (
            <TakeRow take={take} onSheet={used.has(take.id)} chosen={chosen.has(take.id)} />
          )
        }
        what={say`This take`}
        label={say`Takes`}
        padding={1.25}
      />
      <Actions takes={takes} picked={picked} />
    </Box>
  );
}

function DeletedTake({ take }: { take: SourceRecord }) {
  return (
    <Box sx={{ py: 0.75, color: 'text.secondary', fontSize: 13 }}>
      <s>{take.name}</s>
      {say` · deleted, gone for good when the project is closed`}
      <Button size="small" onClick={() => restoreTake(take)}>{say`Bring back`}</Button>
    </Box>
  );
}

/** Where takes overlap they are a stack: for the selection, which one is heard. */
function SelectionStack() {
  // What the stack is made of.
  usePart((state) => state.selection);
  usePart((state) => state.timeline);
  useProject((state) => state.sources);
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useProject((state) => state.readOnly);
  const { takes, heard } = stackOfSelection();
  if (takes.length < 2) return null;
  return (
    <Box
      role="radiogroup"
      aria-label={say`Heard in the selection`}
      onMouseDown={(event) => event.preventDefault()}
      sx={{ p: 1.25, borderBottom: 1, borderColor: 'divider', bgcolor: 'page.wash' }}
    >
      <Typography variant="body2" color="text.secondary">{say`Heard in the selection`}</Typography>
      {takes.map((take) => (
        <Button
          key={take.id}
          size="small"
          role="radio"
          aria-checked={heard.has(take.id)}
          aria-label={say`Hear ${take.name}`}
          variant={heard.has(take.id) ? 'contained' : 'text'}
          color="secondary"
          disabled={!idle || readOnly}
          onClick={() => hearInSelection(take)}
          sx={{ minWidth: 0, px: 1.5, mr: 0.5, fontSize: 16 }}
        >
          {circledNumber(take.take)}
        </Button>
      ))}
    </Box>
  );
}

function Actions({ takes, picked }: { takes: readonly SourceRecord[]; picked: readonly SourceRecord[] }) {
  const [exporting, setExporting] = useState(false);
  const circled = takes.filter((take) => take.circled);
  return (
    <Box
      onMouseDown={(event) => event.preventDefault()}
      sx={{ borderTop: 1, borderColor: 'divider', p: 1, display: 'flex', flexWrap: 'wrap', gap: 0.5 }}
    >
      {picked.length === 2 && <Compare takes={picked} />}
      <Button
        size="small"
        color="inherit"
        disabled={circled.length === 0}
        onClick={() => chooseOnly(circled.map(({ id }) => id))}
      >{say`Select circled`}</Button>
      <Button
        size="small"
        color="inherit"
        disabled={picked.length === 0}
        onClick={() => setExporting(true)}
      >{say`Export ${picked.length || ''} …`}</Button>
      <MoveTakes takes={picked} />
      {exporting && <TakeExportDialog takes={picked} onClose={() => setExporting(false)} />}
    </Box>
  );
}

/** To another part; a menu of parts, where there are others. */
function MoveTakes({ takes }: { takes: readonly SourceRecord[] }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const parts = useProject((state) => state.parts);
  const openPart = usePart((state) => state.id);
  const readOnly = useProject((state) => state.readOnly);
  const others = parts.filter(({ id }) => id !== openPart);
  return (
    <>
      <Button
        size="small"
        color="inherit"
        disabled={takes.length === 0 || others.length === 0 || readOnly}
        onClick={(event) => setAnchor(event.currentTarget)}
      >{say`Move to …`}</Button>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        transitionDuration={0}
        disableRestoreFocus
      >
        {others.map(({ id, name }) => (
          <MenuItem
            key={id}
            onClick={() => {
              setAnchor(null);
              moveTakes(takes, id);
            }}
          >
            {name}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** Two takes at equal loudness; while one plays, the other goes on from the same moment. */
function Compare({ takes }: { takes: readonly SourceRecord[] }) {
  const playing = useTransport((state) => state.playingTake);
  const gains = equalGains(takes);
  return (
    <Box
      role="group"
      aria-label={say`Compare at equal loudness`}
      sx={{ width: '100%', display: 'flex', gap: 1, alignItems: 'center' }}
    >
      <Typography variant="body2" color="text.secondary">{say`Compare`}</Typography>
      {takes.map((take) => {
        const gain = gains.get(take.id) ?? 0;
        return (
          <Button
            key={take.id}
            size="small"
            color="secondary"
            variant={playing === take.id ? 'contained' : 'outlined'}
            aria-label={say`Compare: hear ${take.name}`}
            title={
              gain === 0
                ? say`As it is`
                : say`${decimal(gain, 1).replace('-', '−')} dB, to be as loud as the other`
            }
            onClick={() => void playCompared(take, takes)}
          >
            {circledNumber(take.take)}
            {gain < -0.05 && ` ${decimal(gain, 1).replace('-', '−')} dB`}
          </Button>
        );
      })}
    </Box>
  );
}
