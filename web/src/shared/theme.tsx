// MUI in our colours and type, and emotion's styles with the page's nonce.
import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { createTheme, ThemeProvider } from "@mui/material/styles";
import useMediaQuery from "@mui/material/useMediaQuery";
import { type ReactNode, useMemo } from "react";

interface Palette {
  water: string;
  onWater: string;
  ink: string;
  quiet: string;
  paper: string;
  sheet: string;
  hair: string;
  amber: string;
  rust: string;
  moss: string;
}

const LIGHT: Palette = {
  water: "#0E6A6B",
  onWater: "#FFFEFB",
  ink: "#1E2B33",
  quiet: "#5B6A73",
  paper: "#F4F1EA",
  sheet: "#FFFEFB",
  hair: "#DDD6C8",
  amber: "#8A5200",
  rust: "#A93A24",
  moss: "#4C6B2F",
};
const DARK: Palette = {
  water: "#67C4BD",
  onWater: "#10201F",
  ink: "#ECE7DC",
  quiet: "#A3B0B7",
  paper: "#171D21",
  sheet: "#1E262B",
  hair: "#36424A",
  amber: "#E8AE4B",
  rust: "#EF917B",
  moss: "#A3C880",
};

/** What opens, changes colour or goes is so at once: nothing that a finger aims at moves, and no machine draws frames of it. */
const AT_ONCE = {
  create: () => "none",
  duration: {
    shortest: 0,
    shorter: 0,
    short: 0,
    standard: 0,
    complex: 0,
    enteringScreen: 0,
    leavingScreen: 0,
  },
};

function themeOf(mode: "light" | "dark") {
  const p = mode === "light" ? LIGHT : DARK;
  return createTheme({
    palette: {
      mode,
      primary: { main: p.water, contrastText: p.onWater },
      warning: { main: p.amber },
      error: { main: p.rust },
      success: { main: p.moss },
      background: { default: p.paper, paper: p.sheet },
      text: { primary: p.ink, secondary: p.quiet },
      divider: p.hair,
    },
    shape: { borderRadius: 10 },
    transitions: AT_ONCE,
    typography: {
      fontFamily: '"Lexend Variable", system-ui, sans-serif',
      fontSize: 13,
      button: { textTransform: "none", fontWeight: 500 },
    },
    components: {
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiButton: {
        defaultProps: { disableElevation: true, size: "small" },
        styleOverrides: {
          root: { borderRadius: 10, padding: "4px 14px", minWidth: 0 },
          outlined: { borderColor: p.hair, color: p.ink },
        },
      },
      MuiOutlinedInput: {
        styleOverrides: {
          root: { borderRadius: 8, fontSize: 13, backgroundColor: p.sheet },
          notchedOutline: { borderColor: p.hair },
          input: { padding: "4px 10px", height: "auto" },
        },
      },
      MuiNativeSelect: { styleOverrides: { root: { fontSize: 12 }, select: { paddingTop: 3, paddingBottom: 3 } } },
      MuiSelect: { styleOverrides: { select: { paddingTop: 3, paddingBottom: 3, minHeight: 0, fontSize: 12 } } },
      // Tables look as the page's own rules say.
      MuiTable: { styleOverrides: { root: { width: "auto" } } },
      MuiTableCell: {
        styleOverrides: {
          root: { padding: 0, borderBottom: 0, color: "inherit", font: "inherit", lineHeight: "inherit" },
        },
      },
      MuiRadio: { styleOverrides: { root: { padding: 5 } } },
      MuiLinearProgress: { styleOverrides: { root: { height: 6, borderRadius: 3 } } },
      MuiInputLabel: { styleOverrides: { root: { fontSize: 13 } } },
      MuiCheckbox: { styleOverrides: { root: { padding: 5 } } },
      MuiFormControlLabel: { styleOverrides: { label: { fontSize: 13 } } },
      MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: "none" } } },
      // Of itself it would ask for a time that goes by its height.
      MuiPopover: { defaultProps: { transitionDuration: 0 } },
      MuiMenu: {
        // Within the page's main part: what opens is of it, for those who go from landmark to landmark too.
        defaultProps: {
          transitionDuration: 0,
          slotProps: { paper: { elevation: 0 } },
          container: () => document.querySelector("main") ?? document.body,
        },
        styleOverrides: { paper: { border: `1px solid ${p.hair}`, borderRadius: 12 } },
      },
      MuiMenuItem: { styleOverrides: { root: { fontSize: 13 } } },
      MuiToggleButton: {
        styleOverrides: {
          root: {
            textTransform: "none",
            padding: "2px 12px",
            borderColor: p.hair,
            color: p.ink,
            borderRadius: 8,
            fontSize: 12,
            "&.Mui-selected, &.Mui-selected:hover": { backgroundColor: p.ink, color: p.sheet },
          },
        },
      },
    },
  });
}

function pageNonce(): string | undefined {
  return document.querySelector<HTMLElement>("meta[name=style-nonce]")?.nonce || undefined;
}

export function Themed({ children }: { children: ReactNode }) {
  const dark = useMediaQuery("(prefers-color-scheme: dark)");
  const theme = useMemo(() => themeOf(dark ? "dark" : "light"), [dark]);
  const cache = useMemo(() => {
    const nonce = pageNonce();
    return createCache({ key: "gp", prepend: true, ...(nonce ? { nonce } : {}) });
  }, []);
  return (
    <CacheProvider value={cache}>
      <ThemeProvider theme={theme}>{children}</ThemeProvider>
    </CacheProvider>
  );
}
