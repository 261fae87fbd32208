import { useCallback } from "react";
import { Table } from "../../kit/Table";
import { Action, BenchHead } from "../../kit/controls";
import { useCarried, useCarriedRuns } from "../../show/carrying";
import { useCompared } from "../../show/compared";
import { type Slot, SlotMap } from "../../show/SlotMap";
import { useShow } from "../../show/document";
import { useFixtures, useHangText } from "../../show/fixtures";
import { address, many } from "../../show/format";
import { select, useSelection } from "../../show/selection";
import { useDimmersOn, usePatchedUniverses, useTaken } from "../../show/slots";
import { Carried } from "./Carried";
import { Compare } from "./Compare";
import { Dimmers, Plugged } from "./Dimmers";
import { pressToDrag, useCarrying } from "./dragging";
import { Unpatched, Unplugged } from "./Shelf";
import { Universes } from "./Universes";
import { seePatch, usePatchView, type View } from "./view";

/** The map of universes, one of them slot by slot, the patch as a list, or the dimmers; beside it a console's list. */
export function PatchBench() {
  const universes = usePatchedUniverses();
  const fixtures = useFixtures();
  const { view, universe: asked } = usePatchView();
  const compared = useCompared((state) => state.found !== null);
  const inHand = useCarried((state) => state.ids.length > 0);
  const dragged = useCarried((state) => state.dragged);
  useCarrying();
  const universe = asked ?? (universes[0] as number);
  const see = (one: number) => {
    usePatchView.setState({ view: "one", universe: one });
  };
  if (compared) return <Compare />;
  const titles: Record<View, string> = { universes: "Universes", one: `Universe ${universe}`, list: "Patch list", dimmers: "Dimmers" };
  return (
    <>
      {/* In the head's place, so that nothing shifts under what is dragged. */}
      {inHand ? (
        <Carried />
      ) : (
        <BenchHead title={titles[view]} note={view === "one" ? <Filled universe={universe} /> : view === "dimmers" ? <Plugged /> : `${many(fixtures.filter((one) => one.body.address != null).length, "fixture")} on ${many(universes.length, "universe")}`}>
          {(view === "one" || view === "list") && universes.map((one) => (
            <Action key={one} aria-label={`Show universe ${one}`} look={view === "one" && one === universe ? "on" : "quiet"} height="22px" onClick={() => see(one)}>
              {one}
            </Action>
          ))}
          {view !== "universes" && <Action look="quiet" height="22px" onClick={() => seePatch("universes")}>All universes</Action>}
          <Action look={view === "list" ? "on" : "quiet"} height="22px" onClick={() => seePatch(view === "list" ? "universes" : "list")}>
            List
          </Action>
          <Action look={view === "dimmers" ? "on" : "quiet"} height="22px" onClick={() => seePatch(view === "dimmers" ? "universes" : "dimmers")}>
            Dimmers
          </Action>
        </BenchHead>
      )}
      {(!inHand || dragged) && (view === "dimmers" ? <Unplugged /> : <Unpatched />)}
      {(view === "universes" || (view === "list" && inHand)) && <Universes universes={universes} onUniverse={see} />}
      {view === "one" && <One universe={universe} />}
      {view === "dimmers" && <Dimmers />}
      {view === "list" && !inHand && <PatchTable />}
    </>
  );
}

/** How full a universe is. */
function Filled({ universe }: { universe: number }) {
  const taken = useTaken(universe);
  const conflicts = [...taken.values()].filter((all) => all.length > 1 && !all.every((one) => one.group && one.group === all[0]?.group)).length;
  return <>{`${taken.size} of 512 slots taken${conflicts ? `, ${conflicts} in conflict` : ""}`}</>;
}

/** One universe, slot by slot; what is carried shows where it would lie. */
function One({ universe }: { universe: number }) {
  const taken = useTaken(universe);
  const ghosts = useCarriedRuns().filter((one) => one.universe === universe);
  const selection = new Set(useSelection((state) => state.selection));
  const dimmers = useDimmersOn(universe);
  const pick = useCallback((slot: number) => select((taken.get(slot) ?? []).map((one) => one.fixture)), [taken]);
  const ghostOf = new Map<number, { number: string; first: boolean }>();
  for (const run of ghosts) for (let i = 0; i < run.slots; i++) ghostOf.set(run.address + i, { number: run.number, first: i === 0 });
  const slots: Slot[] = Array.from({ length: 512 }, (_, i) => {
    const slot = i + 1;
    const all = taken.get(slot) ?? [];
    const one = all[0];
    const ghost = ghostOf.get(slot);
    if (ghost) {
      const clash = all.some((each) => !selection.has(each.fixture));
      return { slot, label: ghost.first ? ghost.number : "", title: `Slot ${slot}: fixture ${ghost.number} would lie here${clash ? ", where another is" : ""}`, tone: clash ? "clash" : "ghost" };
    }
    const dimmer = dimmers.get(slot);
    if (!one) return dimmer === undefined ? { slot, label: "", title: `Slot ${slot}, free`, tone: "empty" } : { slot, label: `d${dimmer}`, title: `Slot ${slot}, dimmer ${dimmer}, nothing on it`, tone: "dimmer" };
    const who = all.map((each) => `fixture ${each.number}, ${each.attribute}`).join(" and ");
    const meant = all.length > 1 && all.every((each) => each.group && each.group === one.group);
    const tone = all.length > 1 && !meant ? "conflict" : all.some((each) => selection.has(each.fixture)) ? "selected" : one.first ? "start" : "taken";
    const label = one.first || (all.length > 1 && !meant) ? `${one.number}${meant ? `+${all.length - 1}` : ""}` : "";
    return { slot, label, title: `Slot ${slot}: ${who}${meant ? ", driven together" : all.length > 1 ? ", conflict" : ""}`, tone };
  });
  return (
    <div
      style={{ display: "contents" }}
      onPointerDown={(event) => {
        const slot = Number((event.target as HTMLElement).closest<HTMLElement>("[data-slot]")?.dataset.slot);
        pressToDrag(event, (taken.get(slot) ?? []).map((one) => one.fixture));
      }}
    >
      <SlotMap label={`Slots of universe ${universe}`} universe={universe} slots={slots} onClick={pick} />
    </div>
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
        { title: "Circuit", cell: (row) => row.body.circuit ?? "" },
        { title: "Dimmer", numeric: true, cell: (row) => row.body.dimmer ?? "" },
        { title: "On", cell: (row) => hangText(row)[0] },
        { title: "For", cell: (row) => row.body.purpose ?? "" },
      ]}
    />
  );
}
