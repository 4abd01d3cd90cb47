import { createTheme } from '@mui/material/styles'

const sans = '"Atkinson Hyperlegible Next Variable", system-ui, sans-serif'

const light = {
  lime: '#f5f2ea',
  paper: '#fffdf8',
  ink: '#1d2a2e',
  muted: '#56666a',
  line: '#d3ccbc',
  edge: '#857f70',
  teal: '#17656e',
  mussel: '#5b4682',
  kelp: '#a8481f',
  weed: '#2f6b43',
  red: '#9d2436',
}
const dark = {
  lime: '#161f22',
  paper: '#1e2a2e',
  ink: '#eef2ee',
  muted: '#a9b8ba',
  line: '#3a4a4f',
  edge: '#7d8c8f',
  teal: '#6cc3cc',
  mussel: '#b9a5e2',
  kelp: '#f0a27b',
  weed: '#86c99b',
  red: '#f0919d',
}

const palette = (c: typeof light) => ({
  primary: { main: c.ink, contrastText: c.paper },
  secondary: { main: c.teal },
  error: { main: c.red },
  warning: { main: c.kelp },
  success: { main: c.weed },
  text: { primary: c.ink, secondary: c.muted },
  background: { default: c.lime, paper: c.paper },
  divider: c.line,
})

/** The identity as MUI understands it; the same roles as chiton.css. */
export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-scheme' },
  colorSchemes: { light: { palette: palette(light) }, dark: { palette: palette(dark) } },
  shape: { borderRadius: 7 },
  typography: { fontFamily: sans, fontSize: 15, button: { textTransform: 'none', fontWeight: 600 } },
  transitions: { create: () => 'none' },
  components: {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { variant: 'outlined', size: 'small' },
      styleOverrides: {
        root: {
          minHeight: 34,
          padding: '0 12px',
          fontSize: 14,
          color: 'var(--ink)',
          borderColor: 'var(--edge)',
          backgroundColor: 'var(--paper)',
          boxShadow: 'none',
          whiteSpace: 'nowrap',
          '&:hover': { borderColor: 'var(--ink)', backgroundColor: 'var(--paper)' },
          '&.Mui-focusVisible': { outline: '2px solid var(--ink)', outlineOffset: 2 },
          '&.Mui-disabled': { color: 'var(--muted)', borderColor: 'var(--line)' },
          '@media (pointer: coarse)': { minHeight: 44 },
        },
        text: {
          backgroundColor: 'transparent',
          padding: '0 6px',
          textDecoration: 'underline',
          textDecorationColor: 'var(--edge)',
          textUnderlineOffset: 4,
          '&:hover': { backgroundColor: 'transparent', textDecoration: 'underline' },
        },
        contained: {
          backgroundColor: 'var(--ink)',
          color: 'var(--paper)',
          '&:hover': { backgroundColor: 'var(--ink)', boxShadow: 'none' },
        },
      },
    },
    MuiPaper: { styleOverrides: { root: { backgroundImage: 'none', border: '1px solid var(--edge)', boxShadow: 'none' } } },
    // Room for the ring around a field at the top.
    MuiDialogContent: { styleOverrides: { root: { '.MuiDialogTitle-root + &': { paddingTop: 6 } } } },
    MuiDialog: { styleOverrides: { paper: { borderRadius: 9 } } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: { backgroundColor: 'var(--paper)', fontSize: 15 },
        input: { '&.MuiInputBase-inputSizeSmall': { paddingTop: 6, paddingBottom: 6 } },
        notchedOutline: { borderColor: 'var(--edge)' },
      },
    },
    MuiInputLabel: { styleOverrides: { root: { fontSize: 15 } } },
    MuiLinearProgress: {
      styleOverrides: { root: { height: 6, borderRadius: 3, backgroundColor: 'var(--line)' }, bar: { backgroundColor: 'var(--teal)' } },
    },
    MuiMenuItem: { styleOverrides: { root: { minHeight: 34, fontSize: 14 } } },
  },
})
