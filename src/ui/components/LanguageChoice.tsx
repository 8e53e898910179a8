'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { choosesLanguage } from '@/state/page/language';
import { isEditable, useTransport } from '@/state/hearing/transport';
import { language, languages, say, type Language } from '@/texts/say';

/** The language of the interface, always in sight by its letters. */
export function LanguageChoice() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const idle = useTransport(isEditable);
  const choose = (chosen: Language) => {
    setAnchor(null);
    void choosesLanguage(chosen);
  };
  return (
    <>
      <Button
        color="inherit"
        size="small"
        disabled={!idle}
        aria-label={`${language}, ${say`Language: ${languages[language]}`}`}
        aria-haspopup="menu"
        title={say`Language: ${languages[language]}`}
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ minWidth: 0, px: 0.75, color: 'text.secondary', textTransform: 'uppercase' }}
      >
        {language}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {(Object.keys(languages) as Language[]).map((one) => (
          <MenuItem key={one} lang={one} selected={one === language} onClick={() => choose(one)}>
            {languages[one]}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
