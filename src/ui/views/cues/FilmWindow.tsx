'use client';
import { say } from '@/texts/say';
import createCache from '@emotion/cache';
import { CacheProvider, __unsafe_useEmotionCache as useEmotionCache } from '@emotion/react';
import Box from '@mui/material/Box';
import { useMemo } from 'react';
import { createPortal } from 'react-dom';
import { useFilmWindow } from '@/state/hearing/filmWindow';
import { FilmStage } from './FilmStage';
import { useStaged } from './useStaged';

/** The picture in a window of its own for a second screen: with only what the talent needs. */
export function FilmWindow() {
  const view = useFilmWindow((state) => state.view);
  const staged = useStaged();
  const nonce = useEmotionCache()?.nonce;
  const cache = useMemo(
    () => view && createCache({ key: 'picture', container: view.document.head, nonce }),
    [view, nonce],
  );
  if (!view || !cache) return null;
  const { film } = staged;
  return createPortal(
    <CacheProvider value={cache}>
      {film ? (
        <FilmStage {...staged} film={film} height="100vh" alone />
      ) : (
        <Box sx={{ color: '#fff', p: 4, fontFamily: 'sans-serif' }}>{say`This part has no picture.`}</Box>
      )}
    </CacheProvider>,
    view.document.body,
  );
}
