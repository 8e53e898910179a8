import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { saveScriptPage } from '@/state/project/scriptText';
import { useProject, type PartRecord } from '@/state/project/openProject';

/** The script as a page to print, of this part or of all. */
export function PrintButton({ part }: { part: PartRecord }) {
  const parts = useProject((state) => state.parts);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const written = parts.filter(({ script }) => script.length > 0);
  const save = (which: readonly PartRecord[]) => {
    setAnchor(null);
    saveScriptPage(which);
  };
  return (
    <>
      <Button
        size="small"
        color="inherit"
        disabled={written.length === 0}
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
      >{say`To print …`}</Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem disabled={part.script.length === 0} onClick={() => save([part])}>
          {part.name}
        </MenuItem>
        <MenuItem onClick={() => save(written)}>{say`All ${written.length} parts with a script`}</MenuItem>
      </Menu>
    </>
  );
}
