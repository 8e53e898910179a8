'use client';
import { say } from '@/texts/say';
import KeyboardOutlined from '@mui/icons-material/KeyboardOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { describeOutput } from '@/core/specs/fixText';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { useStaveFocus } from '@/state/sheet/staveFocus';
import { isEditable, useTransport } from '@/state/hearing/transport';
import { HistoryButtons, SmallButton } from '../../commands/HistoryButtons';
import { useKeyText } from '../../commands/keys';
import { commands, run, type CommandId } from '../../commands/registry';
import { JoinMenu } from './menus/JoinMenu';
import { LookMenu } from './menus/LookMenu';
import { PassageMenu } from './menus/PassageMenu';
import { RoomMenu } from './menus/RoomMenu';

/** The proofreader's edits, above the sheet they act on. */
export function EditStrip() {
  const editable = useTransport(isEditable);
  const readOnly = useProject((state) => state.readOnly);
  const selected = usePart((state) => state.selection !== null);
  const still = editable && !readOnly;
  return (
    <Box
      role="toolbar"
      aria-label={say`Edit`}
      onMouseDown={(event) => event.preventDefault()}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.25,
        px: 1.5,
        height: 42,
        borderBottom: 1,
        borderColor: 'divider',
        flexShrink: 0,
        overflow: 'hidden',
      }}
    >
      <EditButton id="strike" disabled={!selected || !still} />
      <EditButton id="stet" disabled={!still} />
      <EditButton id="closeUp" disabled={!still} />
      <PassageMenu disabled={!still} />
      <JoinMenu disabled={!still} />
      <RoomMenu disabled={!still} />
      <HistoryButtons disabled={!still} />
      <Box sx={{ flex: 1 }} />
      <OutputSign />
      <FocusSign />
      <LookMenu />
      <SmallButton label={say`All keys`} id="allKeys">
        <KeyboardOutlined fontSize="small" />
      </SmallButton>
    </Box>
  );
}

/** Gain and ceiling of the whole part are heard here but were set in the Proof: no hidden state. */
function OutputSign() {
  const output = usePart((state) => state.timeline.output);
  const projectId = useProject((state) => state.project?.id);
  if (!output || !projectId) return null;
  return (
    <Button
      size="small"
      variant="outlined"
      component={Link}
      href={`/project/${projectId}/proof`}
      title={say`Set in the Proof for the whole part; the sheet shows it as it was recorded`}
      sx={{ py: 0, mr: 1, whiteSpace: 'nowrap' }}
    >{say`Heard: ${describeOutput(output)}`}</Button>
  );
}

/** Which stave edits of sound are for, where that is not all of them: no hidden state. */
function FocusSign() {
  const focus = useStaveFocus((state) => state.track);
  const tracks = usePart((state) => state.timeline.tracks);
  const keyText = useKeyText();
  const track = tracks.length > 1 ? tracks.find(({ id }) => id === focus) : undefined;
  if (!track) return null;
  return (
    <Button
      size="small"
      variant="outlined"
      onClick={() => useStaveFocus.setState({ track: null })}
      title={say`Strikes, gain, fades and room tone are for this stave alone. Click for all staves. ${keyText('oneStave')}`}
      sx={{ py: 0, mr: 1, whiteSpace: 'nowrap' }}
    >{say`Only ${track.name}`}</Button>
  );
}

/** A command on the strip, by its short name; its key is told when the pointer rests on it. */
function EditButton({ id, disabled }: { id: CommandId; disabled: boolean }) {
  const keyText = useKeyText();
  return (
    <Button
      disabled={disabled}
      onClick={() => run(id)}
      title={keyText(id)}
      size="small"
      color="inherit"
      sx={{ px: 1, minWidth: 0, whiteSpace: 'nowrap' }}
    >
      {commands[id].menu}
    </Button>
  );
}
