import { type MantineColorsTuple, createTheme } from '@mantine/core';

const grey: MantineColorsTuple = [
  '#ededed',
  '#d6d6d6',
  '#c2c2c2',
  '#a8a8a8',
  '#8a8a8a',
  '#414141',
  '#363636',
  '#303030',
  '#262626',
  '#1b1b1b',
];
const go: MantineColorsTuple = [
  '#f7fbe2',
  '#eff7c4',
  '#e5f09c',
  '#daeb75',
  '#d0e85c',
  '#c8e64a',
  '#b4d03c',
  '#8ea52c',
  '#6b7d20',
  '#1d2105',
];
export const theme = createTheme({
  primaryColor: 'go',
  primaryShade: 5,
  autoContrast: true,
  colors: { dark: grey, gray: grey, go },
  fontFamily: "'IBM Plex Sans Variable', system-ui, sans-serif",
  fontFamilyMonospace: "'IBM Plex Mono', monospace",
  defaultRadius: 4,
  fontSizes: {
    xs: 'var(--type-small)',
    sm: 'var(--type)',
    md: 'var(--type-head)',
    lg: 'var(--type-head)',
    xl: 'var(--type-title)',
  },
  black: '#1b1b1b',
  white: '#ededed',
  respectReducedMotion: true,
  components: {
    Tooltip: { defaultProps: { openDelay: 400, transitionProps: { duration: 100 } } },
    Modal: {
      defaultProps: { transitionProps: { duration: 100 }, centered: true, closeButtonProps: { 'aria-label': 'Close' } },
    },
    Notification: { defaultProps: { closeButtonProps: { 'aria-label': 'Close' } } },
    Menu: { defaultProps: { transitionProps: { duration: 80 }, shadow: 'md' } },
  },
});
