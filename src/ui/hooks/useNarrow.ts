import useMediaQuery from '@mui/material/useMediaQuery';

/** A phone held upright: there is room for one thing. */
export const useNarrow = (): boolean => useMediaQuery('(max-width: 700px)');
