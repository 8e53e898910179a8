import Box from '@mui/material/Box';
import { useMemo } from 'react';
import { NameFinder, type SaidName } from '@/core/script/names';
import { useProject } from '@/state/project/openProject';

const none: readonly SaidName[] = [];

/** Finds the names of the open project in texts. */
export function useNameFinder(): NameFinder {
  const names = useProject((state) => state.project?.names ?? none);
  return useMemo(() => new NameFinder(names), [names]);
}

/** A text to be read, with how its names are said above them. */
export function SpokenText({ text, finder }: { text: string; finder: NameFinder }) {
  return finder.in(text).map(({ text: words, say }, index) =>
    say ? (
      <Box key={index} component="ruby" sx={{ '& rt': { fontSize: '0.62em', fontStyle: 'italic' } }}>
        {words}
        <rt>{say}</rt>
      </Box>
    ) : (
      words
    ),
  );
}
