'use client';
import { createTheme } from '@mui/material/styles';

declare module '@mui/material/Button' {
  interface ButtonPropsVariantOverrides {
    /** Within a line of text. */
    inline: true;
  }
}

const TEXT = "'Atkinson Hyperlegible Next', system-ui, sans-serif";

/** MUI dressed in the tokens; both schemes draw from the same variables, so components name no colour. */
export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-theme' },
  colorSchemes: {
    light: {
      palette: {
        primary: { main: '#0f5c54', contrastText: '#ffffff' },
        warning: { main: '#8f6115' },
        error: { main: '#a23b2c' },
        background: { default: '#f3f0e8', paper: '#fcfbf7' },
        text: { primary: '#1f2b2a', secondary: '#5c6966' },
        divider: '#dad4c4',
      },
    },
    dark: {
      palette: {
        primary: { main: '#62bfae', contrastText: '#0d1816' },
        warning: { main: '#dcab58' },
        error: { main: '#e88373' },
        background: { default: '#161b1a', paper: '#1e2524' },
        text: { primary: '#e8ebe5', secondary: '#9fada8' },
        divider: '#3a4542',
      },
    },
  },
  shape: { borderRadius: 6 },
  typography: {
    fontFamily: TEXT,
    fontSize: 13,
    htmlFontSize: 16,
    body1: { fontSize: 13, lineHeight: 1.4 },
    body2: { fontSize: 12, lineHeight: 1.4 },
    h1: { fontSize: 17, fontWeight: 600, lineHeight: 1.3 },
    h2: { fontSize: 15, fontWeight: 600, lineHeight: 1.3 },
    h3: { fontSize: 12, fontWeight: 600, lineHeight: 1.4, color: 'var(--dim)' },
    button: { textTransform: 'none', fontWeight: 600, fontSize: 13 },
  },
  components: {
    MuiButton: {
      defaultProps: { disableElevation: true, variant: 'outlined', size: 'small' },
      styleOverrides: { root: { padding: '5px 12px', borderColor: 'var(--teal)', whiteSpace: 'nowrap' } },
      variants: [{ props: { variant: 'inline' }, style: { padding: 0, minWidth: 0, color: 'var(--teal)' } }],
    },
    MuiChip: {
      styleOverrides: {
        root: {
          height: 26,
          borderRadius: 42,
          borderColor: 'var(--line)',
          background: 'var(--sheet)',
          color: 'inherit',
          fontSize: 12,
          '&:hover, &.Mui-focusVisible': { background: 'var(--sheet)' },
          '&.Mui-focusVisible': { outline: '2px solid var(--teal)' },
          '&[aria-pressed="true"], &[aria-pressed="true"]:hover': {
            borderColor: 'var(--teal)',
            background: 'var(--teal2)',
          },
        },
        label: { display: 'inline-flex', alignItems: 'center', gap: 5, padding: '0 8px' },
      },
    },
    MuiAlert: {
      styleOverrides: {
        root: {
          padding: '8px 12px',
          borderRadius: '0 6px 6px 0',
          color: 'inherit',
          fontSize: 13,
          lineHeight: 1.4,
          overflowWrap: 'anywhere',
        },
        message: { padding: 0, width: '100%', overflow: 'visible' },
      },
      variants: [
        { props: { severity: 'error' }, style: { borderLeft: '3px solid var(--brick)', background: 'var(--brick2)' } },
        {
          props: { severity: 'warning' },
          style: { borderLeft: '3px solid var(--brass)', background: 'var(--brass2)' },
        },
      ],
    },
    MuiTabs: {
      styleOverrides: {
        root: { minHeight: 0 },
        list: { gap: 16 },
        indicator: { backgroundColor: 'var(--teal)' },
      },
    },
    MuiTab: {
      styleOverrides: {
        root: {
          minWidth: 0,
          minHeight: 0,
          padding: '0 0 4px',
          fontWeight: 600,
          color: 'var(--dim)',
          '&.Mui-selected': { color: 'var(--teal)' },
          '&.Mui-focusVisible': { outline: '2px solid var(--teal)' },
        },
      },
    },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: { background: 'var(--sheet)', fontSize: 13 },
        input: { padding: '7px 10px' },
        multiline: { padding: 0 },
        notchedOutline: { borderColor: 'var(--line)' },
      },
    },
    MuiDialog: { styleOverrides: { paper: { backgroundImage: 'none', border: '1px solid var(--line)' } } },
    MuiTableCell: {
      styleOverrides: {
        root: {
          borderColor: 'var(--line)',
          fontVariantNumeric: 'tabular-nums',
          '&:first-of-type': { paddingLeft: 0 },
          '&:last-of-type': { paddingRight: 0 },
        },
        head: { color: 'var(--dim)', fontWeight: 600 },
      },
    },
    MuiTooltip: { defaultProps: { enterDelay: 500 } },
  },
});
