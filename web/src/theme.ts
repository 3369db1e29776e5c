import { definePreset } from "@primeuix/themes";
import Aura from "@primeuix/themes/aura";

/** Card, felt, ink and one seam colour. */
export const theme = {
  preset: definePreset(Aura, {
    primitive: { borderRadius: { xs: "2px", sm: "3px", md: "3px", lg: "4px", xl: "6px" } },
    semantic: {
      primary: {
        50: "#f6f3ea", 100: "#e6e2d6", 200: "#c9ccca", 300: "#9aa3a6", 400: "#66727a", 500: "#3d4a55",
        600: "#25303a", 700: "#1d262e", 800: "#161d24", 900: "#10161b", 950: "#0a0e12",
      },
      focusRing: { width: "2px", style: "solid", color: "var(--seam)", offset: "2px" },
      colorScheme: {
        light: {
          primary: { color: "#25303a", contrastColor: "#f8f4ea", hoverColor: "#37444f", activeColor: "#161d24" },
          surface: {
            0: "#fbf8f1", 50: "#f6f1e6", 100: "#efe9dc", 200: "#e4ded1", 300: "#cfc6b4", 400: "#a79e8c",
            500: "#807a6d", 600: "#62605a", 700: "#4b5054", 800: "#343d45", 900: "#25303a", 950: "#161d24",
          },
          text: { color: "#25303a", mutedColor: "#5d6466" },
        },
        dark: {
          primary: { color: "#efe9db", contrastColor: "#1d242b", hoverColor: "#fffdf8", activeColor: "#cfc9bb" },
          surface: {
            0: "#fffdf8", 50: "#efe9db", 100: "#d8d3c7", 200: "#c0bdb4", 300: "#a5a7a3", 400: "#8c9290",
            500: "#6c767e", 600: "#566068", 700: "#47515a", 800: "#363f47", 900: "#2a323a", 950: "#1d242b",
          },
          text: { color: "#efe9db", mutedColor: "#b3b6b1" },
        },
      },
    },
    components: {
      slider: {
        track: { background: "var(--stitch)", size: "2px" },
        range: { background: "var(--ink)" },
        handle: {
          width: "12px", height: "20px", borderRadius: "2px", background: "var(--ink)",
          content: { background: "var(--ink)", hoverBackground: "var(--seam)", width: "12px", height: "20px", borderRadius: "2px", shadow: "none" },
        },
      },
    },
  }),
  options: { darkModeSelector: "system", cssLayer: false },
};
