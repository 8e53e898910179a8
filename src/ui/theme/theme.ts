import { createTheme, type ThemeOptions } from '@mui/material/styles';
import { lamp, light, type InkPalette } from './palette';

declare module '@mui/material/styles' {
  interface Palette {
    page: InkPalette;
  }
  interface PaletteOptions {
    page?: InkPalette;
  }
}

const paletteOf = (page: InkPalette) => ({
  page,
  primary: { main: page.ink, contrastText: page.sheet },
  secondary: { main: page.blue, contrastText: page.sheet },
  error: { main: page.vermilion, contrastText: page.sheet },
  warning: { main: page.ochre, contrastText: page.sheet },
  success: { main: page.sage, contrastText: page.sheet },
  info: { main: page.blue, contrastText: page.sheet },
  background: { default: page.paper, paper: page.sheet },
  text: { primary: page.ink, secondary: page.faintInk },
  divider: page.rule,
});

export const serif = "'Literata Variable', Georgia, serif";
const sans = "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif";

const options: ThemeOptions = {
  cssVariables: { colorSchemeSelector: 'data-scheme' },
  colorSchemes: { light: { palette: paletteOf(light) }, dark: { palette: paletteOf(lamp) } },
  typography: {
    fontFamily: sans,
    fontSize: 14,
    h1: { fontFamily: serif, fontSize: '2rem', fontWeight: 650 },
    h2: { fontFamily: serif, fontSize: '1.35rem', fontWeight: 650 },
    h3: { fontFamily: serif, fontSize: '1.1rem', fontWeight: 650 },
    button: { textTransform: 'none', fontWeight: 600 },
  },
  shape: { borderRadius: 8 },
  components: {
    MuiButton: {
      defaultProps: { disableElevation: true },
      styleOverrides: { root: { borderRadius: 999, paddingInline: 18 } },
    },
    MuiChip: { styleOverrides: { root: { borderRadius: 999 } } },
    // A bar that glides from step to step draws the page anew sixty times a second while others work.
    MuiLinearProgress: { styleOverrides: { bar: { transition: 'none' } } },
    // Who has asked the system for less motion gets none (W3C Media Queries 5, prefers-reduced-motion); what
    // tells that something is going on still moves.
    MuiCssBaseline: {
      styleOverrides: {
        '@media (prefers-reduced-motion: reduce)': {
          '*, *::before, *::after': { transitionDuration: '0s !important', transitionDelay: '0s !important' },
          '.MuiTouchRipple-root': { display: 'none' },
        },
      },
    },
    MuiPaper: { styleOverrides: { root: { backgroundImage: 'none' } } },
    // Menus and dialogs come and go at once: a key pressed right after a choice already means the Booth.
    // A menu stands outside of the page's landmarks, so it is one itself.
    MuiMenu: {
      defaultProps: {
        transitionDuration: 0,
        slotProps: { paper: { role: 'region', 'aria-label': 'Choices' } },
      },
    },
    MuiTableRow: {
      styleOverrides: {
        root: ({ theme }) => ({
          '&.Mui-selected, &.Mui-selected:hover': { backgroundColor: theme.vars?.palette.page.wash },
        }),
      },
    },
    // What is not chosen is told from what is by weight and line, not by being faint.
    MuiTab: {
      styleOverrides: {
        textColorInherit: { opacity: 1, fontWeight: 400, '&.Mui-selected': { fontWeight: 700 } },
      },
    },
    MuiDialog: { defaultProps: { transitionDuration: 0 } },
    MuiDialogTitle: { styleOverrides: { root: { fontFamily: serif, fontWeight: 650 } } },
    MuiTooltip: { defaultProps: { enterDelay: 500 } },
  },
};

export const theme = createTheme(options);
