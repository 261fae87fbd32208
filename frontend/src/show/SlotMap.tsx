import { Box } from "@chakra-ui/react";
import { memo, type ReactNode } from "react";

export interface Slot {
  slot: number;
  label: ReactNode;
  title: string;
  tone: "empty" | "dimmer" | "taken" | "start" | "selected" | "conflict" | "ghost" | "clash";
  /** 0..1: how full the slot's level is, drawn as a bar from below. */
  level?: number;
  /** It has just moved. */
  moved?: boolean;
}

/** Written once on the grid, by tone: cells are plain elements, for all 512 may change ten times a second. */
const CELLS = {
  "& button": {
    position: "relative", overflow: "hidden", height: "19px", fontFamily: "mono", fontSize: "9.5px", borderLeft: "2px solid", cursor: "default",
  },
  "& button[data-tone=empty]": { background: "{colors.ink0}", color: "{colors.faint}", borderColor: "{colors.ink2}" },
  "& button[data-tone=dimmer]": { background: "{colors.ink0}", color: "{colors.dim}", borderColor: "{colors.brassDeep}" },
  "& button[data-tone=taken]": { background: "{colors.ink3}", color: "{colors.dim}", borderColor: "{colors.ink3}", cursor: "pointer" },
  "& button[data-tone=start]": { background: "{colors.line}", color: "{colors.text}", borderColor: "{colors.dim}", cursor: "pointer" },
  "& button[data-tone=selected]": { background: "{colors.verdigrisDeep}", color: "{colors.verdigris}", borderColor: "{colors.verdigris}", cursor: "pointer" },
  "& button[data-tone=conflict]": {
    background: "{colors.ink0}", color: "{colors.rose}", borderColor: "{colors.rose}", textDecoration: "underline wavy", cursor: "pointer",
  },
  "& button[data-tone=ghost]": { background: "{colors.brassDeep}", color: "{colors.onBrassDeep}", borderColor: "{colors.brass}", cursor: "copy" },
  "& button[data-tone=clash]": { background: "{colors.brassDeep}", color: "{colors.rose}", borderColor: "{colors.rose}", textDecoration: "underline wavy", cursor: "copy" },
  "& button[data-moved]": { boxShadow: "inset 0 0 0 1.5px {colors.brass}", color: "{colors.text}" },
  "& i": { position: "absolute", left: 0, right: 0, bottom: 0, background: "{colors.brassDeep}" },
  "& b": { position: "relative", fontWeight: 400 },
  "& [role=rowheader]": { fontFamily: "mono", fontSize: "10px", color: "{colors.faint}", textAlign: "right", paddingRight: "6px", lineHeight: "19px" },
  "& [role=row]": { display: "contents" },
} as const;

const Cell = memo(function Cell({ slot, label, title, tone, level, moved, onClick }: Slot & { onClick?: (slot: number) => void }) {
  return (
    <button type="button" role="gridcell" tabIndex={tone === "empty" ? -1 : 0} aria-label={title} title={title} data-slot={slot} data-tone={tone} data-moved={moved || undefined} onClick={() => onClick?.(slot)}>
      {level ? <i style={{ height: `${level * 100}%` }} /> : null}
      <b>{label}</b>
    </button>
  );
});

/** A universe as 512 slots, 32 in a row. */
export function SlotMap({ label, slots, universe, onClick, onHover }: { label: string; slots: Slot[]; /** Which one it is, where things can be put on it. */ universe?: number; onClick?: (slot: number) => void; /** The slot under the pointer or with the focus; null: none. */ onHover?: (slot: number | null) => void }) {
  const over = (event: { target: EventTarget }) => {
    const slot = (event.target as Element).closest<HTMLElement>("[data-slot]")?.dataset.slot;
    if (slot) onHover?.(Number(slot));
  };
  return (
    <Box onPointerOver={onHover && over} onFocus={onHover && over} onPointerLeave={onHover && (() => onHover(null))} role="grid" aria-label={label} data-universe={universe} overflow="auto" flex="1" minHeight="0" p="8px 12px" css={CELLS}>
      <Box role="rowgroup" display="grid" gridTemplateColumns="34px repeat(32, minmax(20px, 1fr))" gap="1px">
        {Array.from({ length: 16 }, (_, row) => (
          <div key={row} role="row">
            <div role="rowheader">{row * 32 + 1}</div>
            {slots.slice(row * 32, row * 32 + 32).map((slot) => (
              <Cell key={slot.slot} {...slot} onClick={onClick} />
            ))}
          </div>
        ))}
      </Box>
    </Box>
  );
}
