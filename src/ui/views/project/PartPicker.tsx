'use client';
import { say } from '@/texts/say';
import ExpandMore from '@mui/icons-material/ExpandMore';
import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { formatTime } from '@/core/base/units';
import { openImport } from '@/state/files/importing';
import { usePart } from '@/state/sheet/part';
import { selectPart } from '@/state/sheet/parts';
import { useProject } from '@/state/project/openProject';
import { useTransport } from '@/state/hearing/transport';
import { PartDialog } from '../../components/PartDialog';

/** So many parts a menu shows; of more, those around the open one. */
const mostInMenu = 40;

/** The open part; others are chosen here on every screen. */
export function PartPicker() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [choosing, setChoosing] = useState(false);
  const { parts, project, readOnly } = useProject();
  const openId = usePart((state) => state.id);
  const mode = useTransport((state) => state.mode);
  const open = parts.find((part) => part.id === openId);
  if (!open || !project) return null;
  const all = parts.length <= mostInMenu;
  const first = all ? 0 : Math.max(0, parts.indexOf(open) - mostInMenu / 2);
  return (
    <>
      <span aria-hidden>›</span>
      <Button
        color="inherit"
        size="small"
        disabled={mode !== 'idle'}
        endIcon={<ExpandMore />}
        onClick={(event) => setAnchor(event.currentTarget)}
        aria-label={say`Part: ${open.name}. Choose another`}
        aria-haspopup="menu"
        sx={{
          fontWeight: 700,
          px: 1,
          minWidth: 0,
          whiteSpace: 'nowrap',
          '&.Mui-disabled': { color: 'text.primary' },
        }}
      >
        {open.name}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} disableRestoreFocus>
        {parts.slice(first, first + mostInMenu).map((part, index) => (
          <MenuItem
            key={part.id}
            selected={part.id === openId}
            onClick={() => {
              setAnchor(null);
              void selectPart(part.id);
            }}
          >
            {first + index + 1} {part.name} · {formatTime(part.heardFrames / project.rateHz)}
          </MenuItem>
        ))}
        <Divider />
        {!all && (
          <MenuItem
            onClick={() => {
              setAnchor(null);
              setChoosing(true);
            }}
          >{say`All ${parts.length} parts …`}</MenuItem>
        )}
        <MenuItem
          disabled={readOnly}
          onClick={() => {
            setAnchor(null);
            openImport();
          }}
        >{say`Import sound …`}</MenuItem>
      </Menu>
      {choosing && (
        <PartDialog
          title={say`Go to part …`}
          without={openId}
          onChoose={(id) => void selectPart(id)}
          onClose={() => setChoosing(false)}
        />
      )}
    </>
  );
}
