import { createTheme } from "@mui/material/styles";

/** Colours of a surface theme. Style sheets read them as --sb-palette-slate-…. */
interface Slate {
  ground: string; // behind everything
  panel: string; // cards and bars
  raised: string; // inputs, selected rows
  line: string; // rules and borders
  chalk: string; // text
  faint: string; // secondary text
  brass: string; // accents, data bytes
  brassInk: string; // text on brass
  wash: string; // brass, barely there
  tide: string; // instruction bytes
  coral: string; // errors
  amber: string; // warnings
  moss: string; // done, saved
  board: string; // the module's circuit board
  boardLine: string;
  bread: string; // a breadboard
  strip: string; // what joins five of its holes inside
  hole: string; // rings of holes
  wireEdge: string; // of every wire
}

declare module "@mui/material/styles" {
  interface Palette {
    slate: Slate;
  }
  interface PaletteOptions {
    slate?: Slate;
  }
}

const dark: Slate = {
  ground: "#1a2023",
  panel: "#222a2e",
  raised: "#2d363b",
  line: "#414c52",
  chalk: "#efebe0",
  faint: "#b1b8b5",
  brass: "#dbb563",
  brassInk: "#221a08",
  wash: "rgba(219, 181, 99, 0.14)",
  tide: "#8cc3dc",
  coral: "#f49b8b",
  amber: "#eda55d",
  moss: "#9bcba2",
  board: "#24404a",
  boardLine: "#3a5c68",
  bread: "#333f45",
  strip: "#55666e",
  hole: "#aab6ba",
  wireEdge: "#8f9da2",
};

const light: Slate = {
  ground: "#e6e2d6",
  panel: "#f5f2e9",
  raised: "#fffdf8",
  line: "#c4beae",
  chalk: "#22292c",
  faint: "#525b5b",
  brass: "#6c4d0a",
  brassInk: "#fffaf0",
  wash: "rgba(150, 108, 18, 0.13)",
  tide: "#1f5d7d",
  coral: "#a2301f",
  amber: "#8a4a06",
  moss: "#2c663f",
  board: "#2f5563",
  boardLine: "#52798a",
  bread: "#a9b6b9",
  strip: "#dde4e4",
  hole: "#55646a",
  wireEdge: "#37444a",
};

function palette(s: Slate) {
  return {
    slate: s,
    primary: { main: s.brass, contrastText: s.brassInk },
    error: { main: s.coral },
    warning: { main: s.amber },
    success: { main: s.moss },
    info: { main: s.tide },
    background: { default: s.ground, paper: s.panel },
    text: { primary: s.chalk, secondary: s.faint },
    divider: s.line,
  };
}

export const sans = '"Source Sans 3 Variable", system-ui, sans-serif';
export const mono = '"Source Code Pro Variable", ui-monospace, monospace';

export const theme = createTheme({
  cssVariables: { cssVarPrefix: "sb", colorSchemeSelector: "data-theme" },
  colorSchemes: { dark: { palette: palette(dark) }, light: { palette: palette(light) } },
  typography: { fontFamily: sans, fontSize: 15, button: { textTransform: "none", fontWeight: 600 } },
  shape: { borderRadius: 6 },
  components: {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiToggleButton: {
      styleOverrides: { root: { color: "var(--faint)", "&.Mui-selected": { color: "var(--chalk)" } } },
    },
    MuiInputLabel: { styleOverrides: { root: { color: "var(--faint)" } } },
    // Lines of text and lists look the same, with a label above or without one.
    MuiInput: {
      defaultProps: { disableUnderline: true },
      styleOverrides: {
        root: {
          minWidth: 0,
          minHeight: 36,
          border: "1px solid var(--line)",
          borderRadius: 5,
          background: "var(--raised)",
          fontSize: "inherit",
          "&.Mui-focused": { outline: "2px solid var(--brass)", outlineOffset: 1 },
          "&.Mui-error": { borderColor: "var(--coral)" },
        },
        input: { padding: "6px 9px", "textarea&": { height: "auto", resize: "vertical", font: "inherit" } },
      },
    },
    MuiNativeSelect: {
      styleOverrides: {
        select: { "&&&": { paddingLeft: 8, paddingRight: 18 } },
        icon: { color: "var(--faint)", right: -2 },
      },
    },
    MuiFormControlLabel: {
      styleOverrides: { root: { margin: 0, minHeight: 36 }, label: { fontSize: 14, lineHeight: 1.3 } },
    },
    MuiCheckbox: { styleOverrides: { root: { padding: 6, color: "var(--faint)" } } },
    MuiRadio: { styleOverrides: { root: { padding: 6, color: "var(--faint)" } } },
    MuiButton: {
      styleOverrides: {
        root: {
          minHeight: 36,
          lineHeight: 1.3,
          variants: [
            {
              props: { variant: "outlined", color: "inherit" },
              style: {
                gap: 6,
                transition: "none",
                minWidth: 36,
                padding: "0 12px",
                borderColor: "var(--line)",
                borderRadius: 5,
                fontSize: "inherit",
                "&:hover": { background: "var(--raised)" },
                '&[aria-pressed="true"]': { borderColor: "var(--brass)", background: "var(--wash)" },
              },
            },
          ],
        },
      },
    },
  },
});
