import { createTheme } from "@mui/material/styles";

const sans = "'Atkinson Hyperlegible Next Variable', 'Atkinson Hyperlegible Next', sans-serif";
export const mono = "'JetBrains Mono Variable', 'JetBrains Mono', monospace";

declare module "@mui/material/styles" {
  interface Palette {
    paper: string;
    ink: string;
    pencil: string;
    rule: string;
    status: { true: string; out: string; too_close: string; stale: string; unmeasured: string };
  }
  interface PaletteOptions {
    paper?: string;
    ink?: string;
    pencil?: string;
    rule?: string;
    status?: Palette["status"];
  }
}

const light = {
  paper: "#f6f3ec",
  sheet: "#fdfbf6",
  ink: "#23262b",
  pencil: "#605c55",
  rule: "#cfc8b9",
  action: "#1d4e79",
  status: {
    true: "#2a7a6b",
    out: "#a8482a",
    too_close: "#96690c",
    stale: "#6d6a63",
    unmeasured: "#8a857a",
  },
};

const dark = {
  paper: "#1f2429",
  sheet: "#272d33",
  ink: "#ece7dc",
  pencil: "#b3ada1",
  rule: "#454c54",
  action: "#8fbfe8",
  status: {
    true: "#5fb8a4",
    out: "#e08a68",
    too_close: "#d9a940",
    stale: "#a39e94",
    unmeasured: "#8f8a80",
  },
};

export function themeFor(mode: "light" | "dark") {
  const c = mode === "light" ? light : dark;
  return createTheme({
    palette: {
      mode,
      primary: { main: c.action, contrastText: mode === "light" ? "#ffffff" : "#14202b" },
      error: { main: c.status.out },
      background: { default: c.paper, paper: c.sheet },
      text: { primary: c.ink, secondary: c.pencil },
      divider: c.rule,
      paper: c.paper,
      ink: c.ink,
      pencil: c.pencil,
      rule: c.rule,
      status: c.status,
    },
    shape: { borderRadius: 3 },
    typography: {
      fontFamily: sans,
      fontSize: 15,
      h1: { fontSize: "1.55rem", fontWeight: 600, lineHeight: 1.25 },
      h2: { fontSize: "1.15rem", fontWeight: 600, lineHeight: 1.3 },
      h3: { fontSize: "1rem", fontWeight: 600 },
      button: { textTransform: "none", fontWeight: 600, fontSize: "1rem" },
    },
    components: {
      MuiCssBaseline: {
        styleOverrides: {
          body: { minHeight: "100dvh" },
          ":focus-visible": { outline: `3px solid ${c.action}`, outlineOffset: "2px" },
          "@media (prefers-reduced-motion: reduce)": {
            "*": { animation: "none !important", transition: "none !important" },
          },
        },
      },
      MuiButtonBase: { styleOverrides: { root: { fontFamily: sans } } },
      MuiButton: {
        defaultProps: { disableElevation: true, disableRipple: true },
        styleOverrides: { root: { minHeight: 48, paddingInline: 20 } },
      },
      MuiIconButton: { styleOverrides: { root: { minWidth: 48, minHeight: 48, borderRadius: 3 } } },
      MuiToggleButton: {
        // what can be pressed is not grey, which is for what cannot
        styleOverrides: { root: { minHeight: 48, textTransform: "none", color: "inherit" } },
      },
      MuiPaper: { defaultProps: { elevation: 0 } },
      MuiLink: { defaultProps: { underline: "always" } },
      MuiTextField: { defaultProps: { size: "medium", fullWidth: true } },
      MuiFormHelperText: { styleOverrides: { root: { marginInline: 0, fontSize: ".85rem" } } },
    },
  });
}
