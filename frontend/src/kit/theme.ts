import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";

/** Ink and brass: four depths of ink, one accent, verdigris for selected and in order, ember and rose for what is not. */
export const PALETTE = {
  ink0: "#0a1013",
  ink1: "#0f171a",
  ink2: "#141f23",
  ink3: "#1b292e",
  line: "#243439",
  text: "#dbe5e3",
  dim: "#8ca2a4",
  faint: "#71898d",
  brass: "#d6a74e",
  brassDeep: "#5f4920",
  onBrass: "#1a1306",
  onBrassDeep: "#fff3da",
  verdigris: "#63c0a8",
  verdigrisDeep: "#15302c",
  ember: "#e2873f",
  rose: "#e4687d",
} as const;

export const FACES = {
  text: "'Instrument Sans Variable', system-ui, sans-serif",
  numbers: "'IBM Plex Mono', ui-monospace, monospace",
} as const;

/** A colour for the one of many: neighbours in number are far apart in hue. Nothing is told by it alone. */
export const colourOf = (n: number): string => `hsl(${Math.round((n * 137.5 + 45) % 360)} 55% 68%)`;

const config = defineConfig({
  globalCss: {
    "html, body, #root": { height: "100%", overflow: "hidden", bg: "ink1", color: "text", fontSize: "13px", lineHeight: 1.35 },
    "*:focus-visible": { outline: "2px solid {colors.brass}", outlineOffset: "1px" },
    "::-webkit-scrollbar": { width: "9px", height: "9px" },
    "::-webkit-scrollbar-corner": { background: "transparent" },
    "::-webkit-scrollbar-thumb": { background: "{colors.line}", borderRadius: "5px" },
    "*": { "@media (prefers-reduced-motion: reduce)": { transition: "none !important", animation: "none !important" } },
  },
  theme: {
    tokens: {
      colors: Object.fromEntries(Object.entries(PALETTE).map(([name, value]) => [name, { value }])),
      fonts: { body: { value: FACES.text }, heading: { value: FACES.text }, mono: { value: FACES.numbers } },
    },
    recipes: {
      action: {
        base: {
          display: "inline-flex", alignItems: "center", justifyContent: "center", gap: "6px", borderRadius: "5px", height: "28px",
          px: "10px", fontSize: "12.5px", fontWeight: 550, cursor: "pointer", whiteSpace: "nowrap", transition: "background 100ms",
          _disabled: { opacity: 0.45, cursor: "not-allowed" },
        },
        variants: {
          look: {
            main: { bg: "brass", color: "onBrass", height: "32px", width: "100%", fontWeight: 650, _hover: { bg: "{colors.brass/88}" } },
            plain: { bg: "ink3", color: "text", border: "1px solid {colors.line}", _hover: { bg: "line" } },
            quiet: { bg: "transparent", color: "dim", px: "6px", _hover: { color: "text", bg: "ink3" } },
            on: { bg: "brassDeep", color: "onBrassDeep", border: "1px solid {colors.brassDeep}" },
          },
        },
        defaultVariants: { look: "plain" },
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);
