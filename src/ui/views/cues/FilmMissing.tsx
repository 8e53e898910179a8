'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useRef } from 'react';
import { replaceFilm } from '@/state/files/films';
import type { PartFilm } from '@/state/hearing/film';

/** Why a picture is not seen, and what to do. */
export function FilmMissing({ film: { source, film }, broken }: { film: PartFilm; broken: boolean }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <Box
      role="alert"
      sx={{
        position: 'absolute',
        inset: 0,
        display: 'flex',
        flexDirection: 'column',
        alignItems: 'center',
        justifyContent: 'center',
        gap: 1.5,
        px: 4,
        textAlign: 'center',
        fontSize: 15,
      }}
    >
      {broken
        ? say`This browser cannot show “${film.fileName}”. MP4 with H.264 and WebM can be shown.`
        : say`“${film.fileName}” is not on this machine: its sound is here, its picture is not. Choose the same file once more.`}
      <Button
        variant="contained"
        size="small"
        onClick={() => input.current?.click()}
      >{say`Choose the film`}</Button>
      <input
        ref={input}
        type="file"
        accept="video/*"
        hidden
        aria-label={say`Film`}
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void replaceFilm(source, file);
        }}
      />
    </Box>
  );
}
