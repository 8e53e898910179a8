'use client';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useView } from '@/state/page/view';
import { commands } from './commands';

const names: Record<string, string> = {
  mod: 'Ctrl/Cmd',
  shift: 'Shift',
  space: 'Space',
  enter: 'Enter',
  escape: 'Esc',
  arrowleft: '←',
  arrowright: '→',
  arrowup: '↑',
  arrowdown: '↓',
  backspace: 'Backspace',
  delete: 'Delete',
  home: 'Home',
  end: 'End',
  pageup: 'Page up',
  pagedown: 'Page down',
};

const shown = (chord: string) =>
  chord
    .split('+')
    .map((key) => names[key] ?? key.toUpperCase())
    .join(' ');

/** All keys on one page, made from the same table that makes them work. */
export function KeySheet() {
  const open = useView((state) => state.keysShown);
  const groups = [...new Set(commands.map((command) => command.group))];
  return (
    <Dialog open={open} onClose={() => useView.setState({ keysShown: false })} maxWidth="lg" fullWidth>
      <DialogTitle>Keys</DialogTitle>
      <DialogContent sx={{ columns: 3, columnGap: 4, fontSize: 13.5 }}>
        {groups.map((group) => (
          <Box key={group} sx={{ breakInside: 'avoid', mb: 2.5 }}>
            <Typography variant="h3" sx={{ mb: 0.5 }}>
              {group}
            </Typography>
            {commands
              .filter((command) => command.group === group)
              .map((command) => (
                <Box
                  key={command.label}
                  sx={{
                    display: 'flex',
                    justifyContent: 'space-between',
                    gap: 2,
                    py: 0.35,
                    borderBottom: 1,
                    borderColor: 'divider',
                  }}
                >
                  <span>{command.label}</span>
                  <Box component="span" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
                    {command.keys.map(shown).join(' or ')}
                  </Box>
                </Box>
              ))}
          </Box>
        ))}
      </DialogContent>
    </Dialog>
  );
}
