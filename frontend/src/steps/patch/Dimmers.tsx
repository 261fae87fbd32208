import { Box, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Action, Empty } from "../../kit/controls";
import { get } from "../../show/api";
import { useCarried, useCarriedDimmers } from "../../show/carrying";
import { called, things, useShow } from "../../show/document";
import { useFetched } from "../../show/fetched";
import { many, power } from "../../show/format";
import { select, useSelection } from "../../show/selection";
import type { DimmerOut, Thing } from "../../show/types";
import { pressToDrag } from "./dragging";
import { usePatchView } from "./view";

/** Cells are plain elements: there may be hundreds, and all of them are drawn anew while something is carried over them. */
const CELLS = {
  "& button": {
    display: "flex", flexDirection: "column", alignItems: "stretch", justifyContent: "space-between", height: "42px", padding: "3px 7px 4px", border: "1px solid {colors.line}",
    borderRadius: "3px", background: "{colors.ink0}", fontFamily: "mono", fontSize: "11px", color: "{colors.dim}", textAlign: "left", overflow: "hidden", cursor: "default",
  },
  "& button[data-tone=used]": { background: "{colors.ink3}", color: "{colors.text}", cursor: "pointer" },
  "& button[data-tone=selected]": { background: "{colors.verdigrisDeep}", borderColor: "{colors.verdigris}", color: "{colors.verdigris}", cursor: "pointer" },
  "& button[data-tone=over]": { borderColor: "{colors.rose}", color: "{colors.rose}", cursor: "pointer" },
  "& button[data-ghost]": { background: "{colors.brassDeep}", borderColor: "{colors.brass}", color: "{colors.onBrassDeep}", cursor: "copy" },
  "& span": { display: "flex", justifyContent: "space-between", gap: "6px", whiteSpace: "nowrap", minWidth: 0 },
  "& em": { fontStyle: "normal", overflow: "hidden", textOverflow: "ellipsis" },
  "& s": { textDecoration: "none", flex: "none" },
  "& i": { display: "block", height: "3px", background: "{colors.ink1}", borderRadius: "2px", overflow: "hidden" },
  "& u": { display: "block", height: "100%", background: "{colors.brass}" },
  "& button[data-tone=over] u": { background: "{colors.rose}" },
} as const;

const useDimmers = () => useFetched("dimmers", (show) => get("/api/shows/{show}/dimmers", { params: { path: { show } } }));

/** What is plugged, all in all. */
export function Plugged() {
  const used = (useDimmers()?.dimmers ?? []).filter((one) => one.fixtures.length);
  return <>{`${power(used.reduce((sum, one) => sum + one.load_w, 0))} on ${many(used.length, "dimmer")}`}</>;
}

/** Every rack with its dimmers: what is on each, and how much of what it carries. */
export function Dimmers() {
  const objects = useShow((state) => state.objects);
  const racks = things(objects, "rack");
  const found = useDimmers();
  if (!found) return null;
  const strays = found.dimmers.filter((one) => one.rack === null);
  if (!racks.length && !strays.length) {
    return (
      <Empty>
        <Box>Lamps without electronics of their own are driven by dimmers. Add a rack in the card beside this, then drag lamps on its dimmers: each takes the dimmer’s address.</Box>
      </Empty>
    );
  }
  return (
    <Box overflow="auto" flex="1" minHeight="0" p="6px 14px 12px" role="group" aria-label="Dimmers">
      {racks.map((rack) => <Rack key={rack.id} rack={rack} dimmers={found.dimmers.filter((one) => one.rack === rack.id)} />)}
      {strays.length > 0 && (
        <>
          <Box color={racks.length ? "ember" : "dim"} fontSize="12px" pt="6px" pb="4px">Of no rack</Box>
          <Cells label="Dimmers of no rack" dimmers={strays} />
        </>
      )}
    </Box>
  );
}

function Rack({ rack, dimmers }: { rack: Thing<"rack">; dimmers: DimmerOut[] }) {
  const chosen = useSelection((state) => state.selection.length === 1 && state.selection[0] === rack.id);
  const { name, first = 1, count = 12, carries_w = 2300, universe, address } = rack.body;
  const load = dimmers.reduce((sum, one) => sum + one.load_w, 0);
  const at = universe != null && address != null ? `${universe}.${String(address).padStart(3, "0")}` : "no address";
  return (
    <Box pb="8px">
      <Flex align="center" gap="10px" height="28px" fontSize="12px" color="dim">
        <Action look={chosen ? "on" : "quiet"} height="22px" aria-pressed={chosen} onClick={() => select(chosen ? [] : [rack.id])}>{name}</Action>
        <Box fontFamily="mono" fontSize="11px">{`${first}–${first + count - 1} · ${at} · ${power(carries_w)} each`}</Box>
        <Box flex="1" />
        <Box fontFamily="mono" fontSize="11px">{`${power(load)} on ${dimmers.filter((one) => one.fixtures.length).length} of ${count}`}</Box>
      </Flex>
      <Cells label={`Dimmers of ${name}`} dimmers={dimmers} />
    </Box>
  );
}

function Cells({ label, dimmers }: { label: string; dimmers: DimmerOut[] }) {
  return (
    <Box role="group" aria-label={label} display="grid" gridTemplateColumns="repeat(auto-fill, minmax(104px, 1fr))" gap="4px" css={CELLS}>
      {dimmers.map((one) => <Cell key={one.number} one={one} />)}
    </Box>
  );
}

function Cell({ one }: { one: DimmerOut }) {
  const objects = useShow((state) => state.objects);
  const chosen = useSelection((state) => one.fixtures.length > 0 && one.fixtures.every((id) => state.selection.includes(id)));
  const coming = useCarriedDimmers().get(one.number);
  const over = one.carries_w !== null && one.load_w > one.carries_w;
  const numbers = one.fixtures.map((id) => called(objects[id])).join(", ");
  const circuits = one.circuits.join(", ");
  const click = (event: React.MouseEvent) => {
    if (useCarried.getState().ids.length) return;
    const more = event.shiftKey || event.ctrlKey;
    usePatchView.setState(({ dimmers }) => ({ dimmers: more && dimmers ? `${dimmers}, ${one.number}` : String(one.number) }));
    select(one.fixtures, more);
  };
  // Its name is what it shows, with the words between that there is no room for.
  return (
    <button type="button" title={one.place ? `Driven at ${one.place}` : undefined} data-dimmer={one.number} data-tone={over ? "over" : chosen ? "selected" : one.fixtures.length ? "used" : "free"} data-ghost={coming ? "" : undefined} onPointerDown={(event) => pressToDrag(event, one.fixtures)} onClick={click}>
      <span>
        <b><Said>Dimmer </Said>{one.number}<Said>{numbers ? `: fixture${one.fixtures.length > 1 ? "s" : ""} ` : ": free"}</Said></b>
        <em>{coming ? `+ ${coming.join(", ")}` : numbers}</em>
      </span>
      <i>{one.carries_w ? <u style={{ width: `${Math.min((one.load_w / one.carries_w) * 100, 100)}%` }} /> : null}</i>
      <span>
        <em>{circuits && <Said>, circuit </Said>}{circuits}</em>
        <s>
          <Said>{`, ${one.unknown.length ? "at least " : ""}`}</Said>
          {one.fixtures.length ? <>{one.unknown.length ? "≥ " : ""}{power(one.load_w)}{one.carries_w !== null && <Said>{` of ${power(one.carries_w)}`}</Said>}</> : one.carries_w !== null && power(one.carries_w)}
          {one.switched && <>{" ⎓"}<Said> steady power</Said></>}
          {over && <Said>, overloaded</Said>}
        </s>
      </span>
    </button>
  );
}

/** Words that are read out, not shown. */
function Said({ children }: { children: ReactNode }) {
  return <Box as="small" srOnly>{children}</Box>;
}
