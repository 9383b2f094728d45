import { type ThemeConfig, theme } from 'antd'

export type Mode = 'light' | 'dark'

/** Colours with a meaning, by mode; everything else follows from Ant Design's tokens. */
export const inks = {
  light: {
    page: '#f4f2ec',
    panel: '#fffdf8',
    line: '#ddd6c8',
    text: '#23302e',
    quiet: '#6d7471',
    thread: '#b4690e',
    accent: '#1f6f66',
    bad: '#a8322a',
    good: '#3c7a4a',
    wait: '#7a6a2a',
  },
  dark: {
    page: '#161b1a',
    panel: '#1e2524',
    line: '#38423f',
    text: '#e4e6e1',
    quiet: '#98a19d',
    thread: '#e2a03f',
    accent: '#5fb3a6',
    bad: '#e2776c',
    good: '#7fbf8d',
    wait: '#cbb567',
  },
} as const

export type Inks = { [ink in keyof (typeof inks)['light']]: string }

/** Makes the colours known to the style sheets, as `--page`, `--quiet` and so on. */
export function showInks(mode: Mode) {
  const root = document.documentElement
  for (const [name, colour] of Object.entries(inks[mode])) root.style.setProperty(`--${name}`, colour)
}

export function themeOf(mode: Mode): ThemeConfig {
  const ink = inks[mode]
  return {
    algorithm: [mode === 'dark' ? theme.darkAlgorithm : theme.defaultAlgorithm, theme.compactAlgorithm],
    token: {
      colorPrimary: ink.accent,
      colorInfo: ink.accent,
      colorError: ink.bad,
      colorSuccess: ink.good,
      colorLink: ink.accent,
      colorBgLayout: ink.page,
      colorBgContainer: ink.panel,
      colorBgElevated: ink.panel,
      colorBorder: ink.line,
      colorBorderSecondary: ink.line,
      colorText: ink.text,
      colorTextSecondary: ink.quiet,
      borderRadius: 3,
      fontSize: 15,
      fontFamily: "'Source Sans 3', 'Segoe UI', 'Noto Sans', 'DejaVu Sans', sans-serif",
    },
    components: { Table: { cellPaddingBlockSM: 4, headerBg: 'transparent' }, Tree: { titleHeight: 22 } },
  }
}
