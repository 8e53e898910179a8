'use client';
import { say } from '@/texts/say';
import LightModeOutlined from '@mui/icons-material/LightModeOutlined';
import NightlightOutlined from '@mui/icons-material/NightlightOutlined';
import IconButton from '@mui/material/IconButton';
import { useColorScheme } from '@mui/material/styles';
import Tooltip from '@mui/material/Tooltip';

/** Paper by day, lamp for dark booths. */
export function ThemeToggle() {
  const { mode, systemMode, setMode } = useColorScheme();
  if (!mode) return null;
  const dark = (mode === 'system' ? systemMode : mode) === 'dark';
  const label = dark ? say`Light theme` : say`Lamp theme, for a dark booth`;
  return (
    <Tooltip title={label}>
      <IconButton aria-label={label} size="small" onClick={() => setMode(dark ? 'light' : 'dark')}>
        {dark ? <LightModeOutlined fontSize="small" /> : <NightlightOutlined fontSize="small" />}
      </IconButton>
    </Tooltip>
  );
}
