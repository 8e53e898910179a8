'use client';
import { say } from '@/texts/say';
import Add from '@mui/icons-material/Add';
import Close from '@mui/icons-material/Close';
import Replay from '@mui/icons-material/Replay';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useEffect, useRef, useState } from 'react';
import { notify } from '@/state/page/notices';
import { useKeymap } from '@/state/page/keymap';
import { chordOf, chordText, isBrowsersOwn, isChord, isModifier, type Chord } from './chord';
import { conflictsOf, giveKey, isChanged, keysOf, platform, resetKeys, setKeys } from './keys';
import { commands, type CommandId } from './registry';

/** What is being changed: a key of a command, or one more for it (null). */
export interface KeyChange {
  id: CommandId;
  old: Chord | null;
}

interface RowProps {
  id: CommandId;
  change: KeyChange | null;
  onChange: (change: KeyChange | null) => void;
}

/** A command with its keys: each is changed by clicking it and pressing another. */
export function KeyRow({ id, change, onChange }: RowProps) {
  useKeymap();
  const keys = keysOf(id);
  const { label } = commands[id];
  const editing = change?.id === id;
  const row = useRef<HTMLLIElement>(null);
  return (
    <Box
      component="li"
      ref={row}
      sx={{ py: 0.35, borderBottom: 1, borderColor: 'divider', breakInside: 'avoid' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Box component="span" sx={{ flex: 1 }}>
          {label}
        </Box>
        {keys.map((chord) => (
          <Button
            key={chord}
            size="small"
            variant={editing && change.old === chord ? 'contained' : 'text'}
            color="inherit"
            aria-label={say`${chordText(chord, platform())}: change the key of “${label}”`}
            onClick={() => onChange({ id, old: chord })}
            sx={{ minWidth: 26, minHeight: 24, px: 0.75, py: 0, whiteSpace: 'nowrap' }}
          >
            {chordText(chord, platform())}
          </Button>
        ))}
        <Small label={say`Another key for “${label}”`} onClick={() => onChange({ id, old: null })}>
          <Add sx={{ fontSize: 15 }} />
        </Small>
        {isChanged(id) && (
          <Small
            label={say`Its own keys again for “${label}”`}
            onClick={() => {
              const taken = resetKeys(id);
              for (const { chord, by } of taken)
                notify(
                  'info',
                  say`${chordText(chord, platform())} stays with “${commands[by].label}”, which has it now.`,
                );
              onChange(null);
            }}
          >
            <Replay sx={{ fontSize: 15 }} />
          </Small>
        )}
      </Box>
      {editing && (
        <PressKey
          change={change}
          onDone={() => {
            // The keyboard stays where it was, and does not fall out of the dialog with the field.
            row.current?.querySelector('button')?.focus();
            onChange(null);
          }}
        />
      )}
    </Box>
  );
}

const Small = ({
  label,
  onClick,
  children,
}: {
  label: string;
  onClick: () => void;
  children: React.ReactNode;
}) => (
  <IconButton
    size="small"
    aria-label={label}
    title={label}
    onClick={onClick}
    sx={{ p: 0.25, width: 24, height: 24 }}
  >
    {children}
  </IconButton>
);

/** Waits for the new key, and says what is in the way of it. Escape leaves the key as it is. */
function PressKey({ change, onDone }: { change: KeyChange; onDone: () => void }) {
  const [pressed, setPressed] = useState<Chord | null>(null);
  const field = useRef<HTMLDivElement>(null);
  const { id, old } = change;
  useEffect(() => field.current?.focus(), [id, old]);
  const conflicts = pressed ? conflictsOf(id, pressed) : [];
  const press = (event: React.KeyboardEvent) => {
    const native = event.nativeEvent;
    if (native.key === 'Tab') return;
    event.preventDefault();
    event.stopPropagation();
    if (isModifier(native)) return;
    const chord = chordOf(native);
    if (native.key === 'Escape' && id !== 'stop') return onDone();
    if (!isChord(chord) || isBrowsersOwn(chord) || conflictsOf(id, chord).length > 0)
      return setPressed(chord);
    giveKey(id, chord, old);
    onDone();
  };
  const name = pressed && chordText(pressed, platform());
  return (
    <Box
      ref={field}
      tabIndex={0}
      role="group"
      aria-label={say`Press the new key for “${commands[id].label}”`}
      onKeyDown={press}
      sx={{ my: 0.5, p: 1, border: 1, borderColor: 'secondary.main', borderRadius: 1 }}
    >
      {!pressed && say`Press the new key. Esc leaves it as it is.`}
      {pressed && !isChord(pressed) && say`This key cannot be used here. Press another one.`}
      {pressed && isBrowsersOwn(pressed) && say`The browser keeps ${name} for itself. Press another key.`}
      {conflicts.length > 0 && (
        <Alert severity="warning" sx={{ py: 0 }}>
          {name}
          {say` is the key of ${conflicts.map((other) => `“${commands[other].label}”`).join(say` and `)}. Press another one, or take it from there.`}
        </Alert>
      )}
      <Box sx={{ display: 'flex', gap: 1, mt: 0.5 }}>
        {pressed && conflicts.length > 0 && !isBrowsersOwn(pressed) && (
          <Button
            size="small"
            color="secondary"
            variant="outlined"
            onClick={() => {
              giveKey(id, pressed, old);
              onDone();
            }}
          >{say`Take it`}</Button>
        )}
        {old !== null && (
          <Button
            size="small"
            color="inherit"
            startIcon={<Close sx={{ fontSize: 14 }} />}
            onClick={() => {
              setKeys(
                id,
                keysOf(id).filter((chord) => chord !== old),
              );
              onDone();
            }}
          >{say`No key`}</Button>
        )}
        <Button size="small" color="inherit" onClick={onDone}>{say`Leave it`}</Button>
      </Box>
    </Box>
  );
}
