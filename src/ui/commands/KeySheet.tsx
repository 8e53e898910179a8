'use client';
import { say } from '@/texts/say';
import Search from '@mui/icons-material/Search';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import InputAdornment from '@mui/material/InputAdornment';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMemo, useRef, useState } from 'react';
import { toParolaError } from '@/core/base/errors';
import { handOverText } from '@/state/page/jobs';
import { changeKeymap, useKeymap, type KeyChanges } from '@/state/page/keymap';
import { useView } from '@/state/page/view';
import { chordText, modWord } from './chord';
import { gestures } from './gestures';
import { KeyRow, type KeyChange } from './KeyEditor';
import { keysOf, platform, resetAllKeys } from './keys';
import { keymapFileName, keymapFromJson, keymapToJson } from './keymapFile';
import { commandGroups, groupNames } from './command';
import { commandIds, commands, type CommandId } from './registry';

/**
 * All keys on one page, made from the same table that makes them work; each can be changed, found, and taken
 * to another machine.
 */
export function KeySheet() {
  const open = useView((state) => state.keysShown);
  return open ? <OpenKeySheet /> : null;
}

function OpenKeySheet() {
  const { changes } = useKeymap();
  const [search, setSearch] = useState('');
  const [change, setChange] = useState<KeyChange | null>(null);
  const changed = Object.keys(changes).length;
  const found = useMemo(() => matching(search, changes), [search, changes]);
  const close = () => useView.setState({ keysShown: false });
  return (
    <Dialog open onClose={close} maxWidth="lg" fullWidth aria-labelledby="keys-title">
      <DialogTitle id="keys-title" sx={{ display: 'flex', alignItems: 'center', gap: 2, pb: 1 }}>
        {say`Keys`}
        <Box sx={{ flex: 1 }} />
        <TextField
          size="small"
          placeholder={say`Find a command or a key`}
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          slotProps={{
            input: {
              startAdornment: (
                <InputAdornment position="start">
                  <Search fontSize="small" />
                </InputAdornment>
              ),
            },
            htmlInput: { 'aria-label': say`Find a command or a key` },
          }}
          sx={{ width: 280 }}
        />
      </DialogTitle>
      <DialogContent sx={{ columns: { xs: 1, md: 2, lg: 3 }, columnGap: 4, fontSize: 13.5 }}>
        {commandGroups.map((group) => (
          <Group
            key={group}
            title={groupNames[group]}
            ids={found.filter((id) => commands[id].group === group)}
            change={change}
            onChange={setChange}
          />
        ))}
        <Gestures search={search} />
        {found.length === 0 && search && (
          <Typography color="text.secondary">{say`No command has these words or this key.`}</Typography>
        )}
      </DialogContent>
      <DialogActions>
        <KeyFile />
        <Box sx={{ flex: 1 }} />
        <Button
          color="inherit"
          disabled={changed === 0}
          onClick={resetAllKeys}
        >{say`All as they were${changed > 0 ? say` (${changed} changed)` : ''}`}</Button>
        <Button onClick={close}>{say`Close`}</Button>
      </DialogActions>
    </Dialog>
  );
}

/** Commands whose words or keys hold all words that are looked for. */
function matching(search: string, changes: KeyChanges): CommandId[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  return commandIds.filter((id) => {
    const { label, menu = '' } = commands[id];
    const keys = keysOf(id, changes).map((chord) => chordText(chord, platform()));
    const text = [label, menu, ...keys].join(' ').toLowerCase();
    return words.every((word) => text.includes(word));
  });
}

interface GroupProps {
  title: string;
  ids: readonly CommandId[];
  change: KeyChange | null;
  onChange: (change: KeyChange | null) => void;
}

function Group({ title, ids, change, onChange }: GroupProps) {
  if (ids.length === 0) return null;
  return (
    <Box component="section" aria-label={title} sx={{ mb: 2.5 }}>
      <Typography component="h3" variant="h3" sx={{ mb: 0.5 }}>
        {title}
      </Typography>
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {ids.map((id) => (
          <KeyRow key={id} id={id} change={change} onChange={onChange} />
        ))}
      </Box>
    </Box>
  );
}

/** What the pointer does, beside the keys that do the same. */
function Gestures({ search }: { search: string }) {
  const mod = modWord(platform());
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = gestures
    .map(({ how, what }) => ({ how: how.replace('{mod}', mod), what }))
    .filter(({ how, what }) => words.every((word) => `${how} ${what}`.toLowerCase().includes(word)));
  if (shown.length === 0) return null;
  return (
    <Box component="section" aria-label={say`With the pointer`} sx={{ breakInside: 'avoid' }}>
      <Typography component="h3" variant="h3" sx={{ mb: 0.5 }}>{say`With the pointer`}</Typography>
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {shown.map(({ how, what }) => (
          <Box
            component="li"
            key={how}
            sx={{ display: 'flex', gap: 2, py: 0.35, borderBottom: 1, borderColor: 'divider' }}
          >
            <Box component="span" sx={{ flex: 1 }}>
              {what}
            </Box>
            <Box component="span" sx={{ color: 'text.secondary' }}>
              {how}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

/** Keys as a file: out for another machine, and in again. */
function KeyFile() {
  const input = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState<{ severity: 'success' | 'error'; text: string } | null>(null);
  const take = async (file: File | undefined) => {
    if (!file) return;
    try {
      changeKeymap(keymapFromJson(await file.text()));
      setSaid({ severity: 'success', text: say`The keys are those of “${file.name}” now.` });
    } catch (error) {
      setSaid({ severity: 'error', text: say`${toParolaError(error).message} The keys are as they were.` });
    }
  };
  return (
    <>
      <Button
        color="inherit"
        onClick={() => handOverText(keymapFileName, keymapToJson(useKeymap.getState().changes))}
      >{say`To a file`}</Button>
      <Button color="inherit" onClick={() => input.current?.click()}>{say`From a file`}</Button>
      <input
        ref={input}
        type="file"
        accept="application/json,.json"
        hidden
        aria-label={say`File of keys`}
        onChange={(event) => {
          void take(event.target.files?.[0]);
          event.target.value = '';
        }}
      />
      {said && (
        <Alert severity={said.severity} onClose={() => setSaid(null)} sx={{ py: 0 }}>
          {said.text}
        </Alert>
      )}
    </>
  );
}
