'use client';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef } from 'react';
import { usePart } from '@/state/part';
import { goToLine } from '@/state/script';
import { useSession, type ScriptLine } from '@/state/session';
import { serif } from '../../theme/theme';

const none: ScriptLine[] = [];

/** The script beside the sheet; the line being read stays in view. */
export function ScriptList() {
  const partId = usePart((state) => state.id);
  const part = useSession((state) => state.parts.find(({ id }) => id === partId));
  const lines = part?.script ?? none;
  const current = part?.currentLine ?? 0;
  const scroller = useRef<HTMLDivElement>(null);
  // The virtualiser's functions change with every scroll by design, so this component is not memoised.
  // eslint-disable-next-line react-hooks/incompatible-library
  const list = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => 22 + Math.ceil((lines[index].text.length || 1) / 28) * 25,
    overscan: 6,
    getItemKey: (index) => lines[index].id,
  });
  useEffect(() => {
    if (lines.length > 0) list.scrollToIndex(current, { align: 'auto' });
  }, [current, lines.length, list]);

  if (lines.length === 0) {
    return (
      <Typography color="text.secondary" sx={{ p: 2.5 }}>
        No script yet. Paste it or drop a file in the Brief, and it stands here while you read.
      </Typography>
    );
  }
  return (
    <Box ref={scroller} sx={{ overflowY: 'auto', flex: 1, py: 1 }} data-testid="script">
      <Box
        component="ol"
        sx={{ height: list.getTotalSize(), position: 'relative', m: 0, p: 0, listStyle: 'none' }}
      >
        {list.getVirtualItems().map((item) => (
          <Box
            component="li"
            key={item.key}
            data-index={item.index}
            ref={list.measureElement}
            sx={{ position: 'absolute', width: '100%', px: 1.25 }}
            style={{ transform: `translateY(${item.start}px)` }}
          >
            <Line
              number={item.index + 1}
              text={lines[item.index].text}
              state={stateOf(item.index, current)}
              onClick={() => goToLine(item.index)}
            />
          </Box>
        ))}
      </Box>
    </Box>
  );
}

type LineState = 'read' | 'current' | 'ahead';
const stateOf = (index: number, current: number): LineState =>
  index === current ? 'current' : index < current ? 'read' : 'ahead';

function Line({
  number,
  text,
  state,
  onClick,
}: {
  number: number;
  text: string;
  state: LineState;
  onClick: () => void;
}) {
  const current = state === 'current';
  return (
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
      <Box component="span" sx={{ fontSize: 11, fontWeight: 700, color: 'text.secondary', minWidth: 18 }}>
        {number}
      </Box>
      <Box
        component="span"
        sx={{
          fontFamily: serif,
          fontSize: 16.5,
          lineHeight: 1.45,
          color: state === 'read' ? 'text.secondary' : 'text.primary',
          overflowWrap: 'anywhere',
        }}
      >
        {text}
      </Box>
    </ButtonBase>
  );
}
