'use client';
import { say } from '@/texts/say';
import DeleteOutlined from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useMemo } from 'react';
import { formatTime } from '@/core/base/units';
import { markTraits } from '@/core/timeline/markTraits';
import type { Mark } from '@/core/timeline/timeline';
import { removeMark, renameMark } from '@/state/sheet/marks';
import { select, setCaret, usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { stopToEdit } from '@/state/hearing/playing';
import { useKeyText } from '../../commands/keys';
import { markSigns } from '../../canvas/markSigns';
import { VirtualList } from '../../components/VirtualList';
import { serif } from '../../theme/theme';

/** All marks in order of time: jump, rename, delete. */
export function MarkList() {
  const all = usePart((state) => state.timeline.marks);
  const keyText = useKeyText();
  // Lines of the script have their own list.
  const marks = useMemo(() => all.filter(({ kind }) => markTraits[kind].listed), [all]);
  if (marks.length === 0) {
    return (
      <Typography
        color="text.secondary"
        sx={{ p: 2.5 }}
      >{say`No marks. While recording or after: ${keyText('flub')} marks a flub, ${keyText('note')} a note, ${keyText('partMark')} where a part begins.`}</Typography>
    );
  }
  return (
    <VirtualList
      items={marks}
      keyOf={({ id }) => id}
      estimate={() => 41}
      row={(mark) => <MarkRow mark={mark} />}
      what={say`This mark`}
      label={say`Marks`}
      padding={1}
    />
  );
}

function jumpTo({ at, length }: Mark) {
  if (!stopToEdit()) return;
  setCaret(at);
  select(at, at + length);
}

function MarkRow({ mark }: { mark: Mark }) {
  const rate = useProject((state) => state.project?.rateHz ?? 48_000);
  const readOnly = useProject((state) => state.readOnly);
  const time = formatTime(mark.at / rate, true);
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        py: 0.25,
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <ButtonBase
        onClick={() => jumpTo(mark)}
        aria-label={say`Go to ${mark.name} at ${time}`}
        sx={{ gap: 1, px: 0.5, py: 0.75, borderRadius: 1 }}
      >
        <Box
          component="span"
          sx={{
            minWidth: 18,
            fontFamily: serif,
            fontWeight: 700,
            fontSize: markSigns[mark.kind].sign.length > 1 ? 12 : undefined,
            color: markSigns[mark.kind].colour === 'blue' ? 'secondary.main' : 'warning.main',
          }}
        >
          {markSigns[mark.kind].sign}
        </Box>
        <Box component="span" sx={{ fontVariantNumeric: 'tabular-nums', fontSize: 13 }}>
          {time}
        </Box>
      </ButtonBase>
      <InputBase
        key={mark.name}
        defaultValue={mark.name}
        readOnly={readOnly}
        inputProps={{ 'aria-label': say`Name of the ${mark.kind} mark at ${time}`, maxLength: 200 }}
        onBlur={(event) => event.target.value !== mark.name && renameMark(mark.id, event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && (event.target as HTMLElement).blur()}
        sx={{ flex: 1, fontSize: 14, fontFamily: serif, fontStyle: 'italic' }}
      />
      <IconButton
        size="small"
        disabled={readOnly}
        aria-label={say`Delete ${mark.name}`}
        onClick={() => removeMark(mark.id)}
      >
        <DeleteOutlined fontSize="small" />
      </IconButton>
    </Box>
  );
}
