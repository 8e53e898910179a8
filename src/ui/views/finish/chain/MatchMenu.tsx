import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { proposeMatch } from '@/state/chain/matching';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';
import { ElsewhereDialog } from './ElsewhereDialog';

/** What a voice can be matched to: another part of the project, or any sound file. */
export function MatchMenu({ voice, stepId, disabled }: { voice: string; stepId: string; disabled: boolean }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const parts = useProject((state) => state.parts);
  const openId = usePart((state) => state.id);
  const { getInputProps, open } = useDropzone({
    multiple: false,
    noClick: true,
    noKeyboard: true,
    onDropAccepted: ([file]) => void proposeMatch(voice, stepId, { kind: 'file', file }),
  });
  const [elsewhere, setElsewhere] = useState(false);
  const close = () => setAnchor(null);
  return (
    <>
      <Button
        size="small"
        disabled={disabled}
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
      >{say`Match to …`}</Button>
      <input {...getInputProps()} aria-label={say`A sound file to match to`} />
      <Menu
        anchorEl={anchor}
        open={!!anchor}
        onClose={close}
        slotProps={{ paper: { sx: { maxHeight: 380 } } }}
      >
        <MenuItem
          dense
          onClick={() => {
            close();
            open();
          }}
        >{say`A sound file …`}</MenuItem>
        <MenuItem
          dense
          onClick={() => {
            close();
            setElsewhere(true);
          }}
        >{say`A part of another project …`}</MenuItem>
        <Divider />
        {parts
          .filter(({ id }) => id !== openId)
          .map(({ id, name }) => (
            <MenuItem
              key={id}
              dense
              onClick={() => {
                close();
                void proposeMatch(voice, stepId, { kind: 'part', partId: id });
              }}
            >
              {name}
            </MenuItem>
          ))}
      </Menu>
      {elsewhere && (
        <ElsewhereDialog
          onClose={() => setElsewhere(false)}
          onChoose={(reference) => {
            setElsewhere(false);
            void proposeMatch(voice, stepId, reference);
          }}
        />
      )}
    </>
  );
}
