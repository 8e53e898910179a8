'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useMemo } from 'react';
import type { NameFinder } from '@/core/script/names';
import { lineStates, type LineState } from '@/core/timeline/scriptLines';
import { usePart } from '@/state/sheet/part';
import { goToReading, layScript, standAsRead } from '@/state/script/lines';
import { goToLine } from '@/state/script/script';
import { useProject, type ScriptLine } from '@/state/project/openProject';
import { stopToEdit } from '@/state/hearing/playing';
import { useTransport } from '@/state/hearing/transport';
import { setView } from '@/state/page/view';
import { SpokenText, useNameFinder } from '../../components/SpokenText';
import { VirtualList } from '../../components/VirtualList';
import { serif } from '../../theme/theme';

const none: ScriptLine[] = [];

/** The script beside the sheet; the line being read stays in view. */
export function ScriptList() {
  const partId = usePart((state) => state.id);
  const part = useProject((state) => state.parts.find(({ id }) => id === partId));
  const lines = part?.script ?? none;
  const current = part?.currentLine ?? 0;
  const timeline = usePart((state) => state.timeline);
  const states = useMemo(() => lineStates(timeline, lines), [timeline, lines]);
  const finder = useNameFinder();
  const laid = useMemo(() => [...states.values()].some(({ state }) => state !== 'unread'), [states]);

  if (lines.length === 0) {
    return (
      <Typography
        color="text.secondary"
        sx={{ p: 2.5 }}
      >{say`No script yet. Paste it or drop a file in the Brief, and it stands here while you read.`}</Typography>
    );
  }
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
      <ScriptStrip />
      <VirtualList
        items={lines}
        keyOf={({ id }) => id}
        estimate={({ text }) => 22 + Math.ceil((text.length || 1) / 28) * 25}
        row={({ id, text, was }, index) => (
          <Line
            number={index + 1}
            text={text}
            was={states.get(id)?.state === 'stale' ? (was ?? null) : null}
            finder={finder}
            onStands={() => standAsRead(id)}
            place={placeOf(index, current)}
            state={laid ? (states.get(id)?.state ?? null) : null}
            onClick={() => choose(index, id)}
          />
        )}
        what={say`This line`}
        label={say`Script`}
        current={current}
        testId="script"
        padding={1.25}
      />
    </Box>
  );
}

/**
 * A click goes to the line, and to its audio where it was read; while recording only the place in the script
 * moves.
 */
function choose(index: number, line: string) {
  goToLine(index);
  if (stopToEdit()) goToReading(line);
}

function ScriptStrip() {
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useProject((state) => state.readOnly);
  return (
    <Box
      sx={{
        display: 'flex',
        px: 1,
        borderBottom: 1,
        borderColor: 'divider',
        justifyContent: 'space-between',
      }}
      onMouseDown={(event) => event.preventDefault()}
    >
      <Button
        size="small"
        color="inherit"
        disabled={!idle || readOnly}
        onClick={() => void layScript()}
        title={say`Finds where each line was read, by order and pauses. L follows the script while you record.`}
      >{say`Lay along the sheet`}</Button>
      <Button
        size="small"
        color="inherit"
        onClick={() => setView({ prompter: true })}
        title={say`Large and dark, for reading · B`}
      >{say`Large`}</Button>
    </Box>
  );
}

type Place = 'before' | 'current' | 'ahead';
const placeOf = (index: number, current: number): Place =>
  index === current ? 'current' : index < current ? 'before' : 'ahead';

/** What is known of a line, as a sign and in words: nothing is told by colour alone. */
const lineSigns: Record<LineState, { sign: string; words: string; colour: string }> = {
  unread: { sign: '·', words: say`not read`, colour: 'text.secondary' },
  read: { sign: '✓', words: say`read`, colour: 'success.main' },
  twice: { sign: '×2', words: say`read more than once`, colour: 'warning.main' },
  marked: { sign: '∿', words: say`read, with something marked`, colour: 'warning.main' },
  stale: { sign: '≠', words: say`read, and its text was changed since`, colour: 'error.main' },
};

interface LineProps {
  number: number;
  text: string;
  /** What was read, where that is not what stands here now. */
  was: string | null;
  finder: NameFinder;
  onStands: () => void;
  place: Place;
  /** Null until any line has a place on the sheet. */
  state: LineState | null;
  onClick: () => void;
}

function Line({ number, text, was, finder, onStands, place, state, onClick }: LineProps) {
  const current = place === 'current';
  const sign = state && lineSigns[state];
  return (
    <>
      <ButtonBase
        onClick={onClick}
        onMouseDown={(event) => event.preventDefault()}
        aria-current={current ? 'step' : undefined}
        sx={{
          display: 'flex',
          alignItems: 'baseline',
          justifyContent: 'flex-start',
          textAlign: 'left',
          width: '100%',
          gap: 1.25,
          px: 1,
          py: 0.9,
          borderRadius: 1.5,
          borderLeft: 3,
          borderColor: current ? 'error.main' : 'transparent',
          bgcolor: current ? 'page.wash' : undefined,
        }}
      >
        <Box
          component="span"
          sx={{ fontSize: 11, fontWeight: 700, color: 'text.secondary', minWidth: 30, whiteSpace: 'nowrap' }}
        >
          {number}
          {sign && (
            <Box
              component="span"
              role="img"
              aria-label={sign.words}
              title={sign.words}
              sx={{ color: sign.colour, ml: 0.5 }}
            >
              {sign.sign}
            </Box>
          )}
        </Box>
        <Box
          component="span"
          sx={{
            fontFamily: serif,
            fontSize: 16.5,
            lineHeight: 1.45,
            color: place === 'before' ? 'text.secondary' : 'text.primary',
            overflowWrap: 'anywhere',
          }}
        >
          <SpokenText text={text} finder={finder} />
        </Box>
      </ButtonBase>
      {was !== null && <Was text={was} onStands={onStands} />}
    </>
  );
}

/** What was read of a line that has another text now, and that it may stand. */
function Was({ text, onStands }: { text: string; onStands: () => void }) {
  const readOnly = useProject((state) => state.readOnly);
  return (
    <Box sx={{ pl: 6.5, pr: 1, pb: 0.75, fontSize: 13, color: 'text.secondary' }}>
      {say`Read as: `}
      <Box component="s">{text}</Box>{' '}
      <Button
        size="small"
        color="inherit"
        disabled={readOnly}
        onMouseDown={(event) => event.preventDefault()}
        onClick={onStands}
        sx={{ py: 0, minWidth: 0 }}
      >{say`It may stand`}</Button>
    </Box>
  );
}
