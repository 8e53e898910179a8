'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useCallback, useRef, useState } from 'react';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import { guidesOf } from '@/core/timeline/guides';
import { openList, saveCues } from '@/state/cues/cueFiles';
import {
  addCue,
  cuesFromGuide,
  cuesFromScript,
  giveCues,
  joinCues,
  removeCues,
  renumberCues,
  splitAtCaret,
  toggleDone,
} from '@/state/cues/cues';
import { saveCuePage, saveTakes } from '@/state/files/cueExport';
import { usePart } from '@/state/sheet/part';
import { CueExportDialog } from './CueExportDialog';
import { CueProofDialog } from './CueProofDialog';

interface ActionProps {
  selected: ReadonlySet<string>;
  readOnly: boolean;
}

/** What is done with the cue sheet, and with the cues that are selected in it. */
export function CueActions({ selected, readOnly }: ActionProps) {
  const [only] = selected;
  const input = useRef<HTMLInputElement>(null);
  const none = readOnly || selected.size === 0;
  const guided = usePart((state) => guidesOf(state.timeline).length > 0);
  return (
    <Box
      sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center', gap: 0.5 }}
      role="toolbar"
      aria-label={say`Cues`}
    >
      <Button
        size="small"
        disabled={readOnly}
        title={say`Of the selection, or two seconds at the caret`}
        onClick={() => addCue()}
      >{say`New cue`}</Button>
      <Button size="small" disabled={readOnly} onClick={cuesFromScript}>{say`From the script`}</Button>
      {guided && (
        <Button
          size="small"
          disabled={readOnly}
          title={say`A cue for every turn that is spoken in the guide`}
          onClick={() => void cuesFromGuide()}
        >{say`From the guide`}</Button>
      )}
      <Button
        size="small"
        disabled={readOnly}
        onClick={() => input.current?.click()}
      >{say`Read a list …`}</Button>
      <input
        ref={input}
        type="file"
        hidden
        accept=".csv,.tsv,.txt,.vtt,.srt,text/csv,text/vtt,text/plain"
        aria-label={say`Cue list`}
        onChange={({ target }) => {
          const [file] = target.files ?? [];
          if (file) void openList(file);
          target.value = '';
        }}
      />
      <SaveMenu />
      <Divider orientation="vertical" flexItem sx={{ mx: 1 }} />
      <Button size="small" disabled={none} onClick={() => toggleDone(selected)}>{say`Done, or not`}</Button>
      <GiveMenu selected={selected} disabled={none} />
      <Button
        size="small"
        disabled={readOnly || selected.size !== 1}
        title={say`In two, at the caret`}
        onClick={() => splitAtCaret(only)}
      >{say`Split`}</Button>
      <Button
        size="small"
        disabled={readOnly || selected.size < 2}
        onClick={() => joinCues(selected)}
      >{say`Join`}</Button>
      <Button
        size="small"
        color="error"
        disabled={none}
        onClick={() => removeCues(selected)}
      >{say`Take away${selected.size > 1 ? ` ${selected.size}` : ''}`}</Button>
      <Divider orientation="vertical" flexItem sx={{ mx: 1 }} />
      <Button size="small" disabled={readOnly} onClick={renumberCues}>{say`Count anew`}</Button>
    </Box>
  );
}

/** What becomes of the cues in the end. */
export function CueDelivery() {
  const [dialog, setDialog] = useState<'proof' | 'files' | null>(null);
  const closeDialog = useCallback(() => setDialog(null), []);
  return (
    <>
      <Button onClick={() => setDialog('proof')}>{say`Proof …`}</Button>
      <Button onClick={() => setDialog('files')}>{say`Files …`}</Button>
      {dialog === 'proof' && <CueProofDialog onClose={closeDialog} />}
      {dialog === 'files' && <CueExportDialog onClose={closeDialog} />}
    </>
  );
}

function SaveMenu() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const close = (then: () => void) => {
    setAnchor(null);
    then();
  };
  const save = (form: Parameters<typeof saveCues>[0]) => close(() => saveCues(form));
  return (
    <>
      <Button
        size="small"
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
      >{say`Save as …`}</Button>
      <Menu anchorEl={anchor} open={!!anchor} onClose={() => setAnchor(null)}>
        <MenuItem onClick={() => save('csv')}>{say`CSV, for a spreadsheet`}</MenuItem>
        <MenuItem onClick={() => save('vtt')}>{say`WebVTT captions`}</MenuItem>
        <MenuItem onClick={() => save('srt')}>{say`SubRip captions`}</MenuItem>
        <MenuItem onClick={() => close(saveCuePage)}>{say`Page to print`}</MenuItem>
        <MenuItem onClick={() => close(() => void saveTakes())}>{say`Takes, as CSV`}</MenuItem>
      </Menu>
    </>
  );
}

function GiveMenu({ selected, disabled }: { selected: ReadonlySet<string>; disabled: boolean }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const characters = usePart((state) => cueSheetOf(state.timeline).characters);
  const give = (name: string) => {
    setAnchor(null);
    giveCues(selected, name);
  };
  return (
    <>
      <Button
        size="small"
        aria-haspopup="menu"
        disabled={disabled || characters.length === 0}
        onClick={(event) => setAnchor(event.currentTarget)}
      >{say`Give to …`}</Button>
      <Menu anchorEl={anchor} open={!!anchor} onClose={() => setAnchor(null)}>
        {characters.map(({ id, name }) => (
          <MenuItem key={id} onClick={() => give(name)}>
            {name}
          </MenuItem>
        ))}
        <MenuItem onClick={() => give('')}>{say`Nobody`}</MenuItem>
      </Menu>
    </>
  );
}
