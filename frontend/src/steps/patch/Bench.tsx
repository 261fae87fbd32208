import { useCallback, useState } from "react";
import { Table } from "../../kit/Table";
import { Action, BenchHead } from "../../kit/controls";
import { type Slot, SlotMap } from "../../show/SlotMap";
import { useShow } from "../../show/document";
import { useFixtures, useHangText } from "../../show/fixtures";
import { address } from "../../show/format";
import { select, useSelection } from "../../show/selection";
import { usePatchedUniverses, useTaken } from "../../show/slots";

export function PatchBench() {
  const universes = usePatchedUniverses();
  const [view, setView] = useState<"map" | "list">("map");
  const [asked, setAsked] = useState<number | null>(null);
  const universe = asked !== null && universes.includes(asked) ? asked : (universes[0] as number);
  const taken = useTaken(universe);
  const pick = useCallback((slot: number) => select((taken.get(slot) ?? []).map((one) => one.fixture)), [taken]);
  const selection = new Set(useSelection((state) => state.selection));
  const conflicts = [...taken.values()].filter((all) => all.length > 1).length;
  const slots: Slot[] = Array.from({ length: 512 }, (_, i) => {
    const slot = i + 1;
    const all = taken.get(slot) ?? [];
    const one = all[0];
    if (!one) return { slot, label: "", title: `Slot ${slot}, free`, tone: "empty" };
    const who = all.map((each) => `fixture ${each.number}, ${each.attribute}`).join(" and ");
    const tone = all.length > 1 ? "conflict" : all.some((each) => selection.has(each.fixture)) ? "selected" : one.first ? "start" : "taken";
    return { slot, label: one.first || all.length > 1 ? one.number : "", title: `Slot ${slot}: ${who}${all.length > 1 ? ", conflict" : ""}`, tone };
  });
  return (
    <>
      <BenchHead title={view === "map" ? `Universe ${universe}` : "Patch list"} note={`${taken.size} of 512 slots taken${conflicts ? `, ${conflicts} in conflict` : ""}`}>
        {universes.map((one) => (
          <Action key={one} aria-label={`Show universe ${one}`} look={one === universe && view === "map" ? "on" : "quiet"} height="22px" onClick={() => { setAsked(one); setView("map"); }}>
            {one}
          </Action>
        ))}
        <Action look={view === "list" ? "on" : "quiet"} height="22px" onClick={() => setView(view === "list" ? "map" : "list")}>
          List
        </Action>
      </BenchHead>
      {view === "map" ? (
        <SlotMap label={`Slots of universe ${universe}`} slots={slots} onClick={pick} />
      ) : (
        <PatchTable />
      )}
    </>
  );
}

function PatchTable() {
  const fixtures = useFixtures();
  const types = useShow((state) => state.types);
  const selection = useSelection((state) => state.selection);
  const hangText = useHangText();
  return (
    <Table
      label="Patch list"
      rows={fixtures}
      rowKey={(row) => row.id}
      selected={new Set(selection)}
      onSelect={select}
      mark={(row) => (row.body.address == null ? "ember" : undefined)}
      columns={[
        { title: "No.", numeric: true, cell: (row) => row.body.number ?? "none" },
        { title: "Type", cell: (row) => types[row.body.type]?.name ?? "lost" },
        { title: "Mode", cell: (row) => row.body.mode },
        { title: "Slots", numeric: true, cell: (row) => types[row.body.type]?.modes.find((mode) => mode.name === row.body.mode)?.footprint ?? "" },
        { title: "Address", numeric: true, cell: (row) => address(row.body.universe, row.body.address) },
        { title: "On", cell: (row) => hangText(row)[0] },
        { title: "For", cell: (row) => row.body.purpose ?? "" },
      ]}
    />
  );
}
