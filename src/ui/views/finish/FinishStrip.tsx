import { say } from '@/texts/say';
import KeyboardOutlined from '@mui/icons-material/KeyboardOutlined';
import Box from '@mui/material/Box';
import { HistoryButtons, SmallButton } from '../../commands/HistoryButtons';
import { useKeyText } from '../../commands/keys';
import type { CommandId } from '../../commands/registry';
import { LookMenu } from '../booth/menus/LookMenu';

/** Undo, redo and how the sheet is looked at. */
export function FinishStrip() {
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
      }}
    >
      <HistoryButtons />
      <Box sx={{ flex: 1, pl: 1.5, fontSize: 13, color: 'text.secondary' }}>
        {say`Double-click a stave, or `}
        <Key id="levelPoint" />
        {say`, sets a level point; drag it, or `}
        <Key id="pointLouder" /> <Key id="pointSofter" />.
      </Box>
      <LookMenu />
      <SmallButton label={say`All keys`} id="allKeys">
        <KeyboardOutlined fontSize="small" />
      </SmallButton>
    </Box>
  );
}

function Key({ id }: { id: CommandId }) {
  const keyText = useKeyText();
  return (
    <Box component="kbd" sx={{ fontFamily: 'inherit', fontWeight: 600 }}>
      {keyText(id)}
    </Box>
  );
}
