import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { FillDown } from "../../kit/FillDown";
import { type CellText, type Column, Table } from "../../kit/Table";
import { Action, BenchHead, Empty } from "../../kit/controls";
import { Filter } from "../../show/Filter";
import { GelSign, gelText } from "../../show/GelField";
import { called, settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { matches } from "../../show/filter";
import { useFixtures, useHangText } from "../../show/fixtures";
import { address, length } from "../../show/format";
import { notify } from "../../show/messages";
import { select, useSelection } from "../../show/selection";
import type { Thing } from "../../show/types";
import { LabelStyles } from "./LabelStyles";

type Tab = "fixtures" | "carriers" | "labels";
const KEPT = "zarfwright.hangColumns";
const AT_FIRST = ["No.", "Unit", "Type", "On", "Along", "Side", "Height", "Mode", "Address", "For", "Gel"];

export function HangBench() {
  const [tab, setTab] = useState<Tab>("fixtures");
  const [sought, setSought] = useState("");
  const [choosing, setChoosing] = useState(false);
  const [shown, setShown] = useState<string[]>(() => JSON.parse(localStorage.getItem(KEPT) ?? "null") as string[] | null ?? AT_FIRST);
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const chosen = useMemo(() => new Set(selection), [selection]);
  const all = useFixtures();
  const columns = useColumns();
  const hangText = useHangText();
  const types = useShow((state) => state.types);
  const rows = useMemo(
    () => (sought.trim() ? all.filter((row) => matches(sought, [types[row.body.type]?.name ?? "", hangText(row)[0], row.body.purpose ?? "", row.body.mode, row.body.circuit ?? "", called(objects[objects[row.id]?.layer ?? ""])], row.body.number)) : all),
    [all, sought, types, hangText, objects],
  );
  const used = columns.filter((column) => shown.includes(column.title));
  const carriers = things(objects, "carrier");
  const keep = (titles: string[]) => {
    setShown(titles);
    localStorage.setItem(KEPT, JSON.stringify(titles));
  };
  const cells = (list: CellText[], said?: string) => edit("set cells", { cells: list }).then(() => notify(said ?? (list.length === 1 ? "Set" : `${list.length} cells set`)));
  const [column, setColumn] = useState("For");
  const tabs: [Tab, string][] = [["fixtures", "Fixtures"], ["carriers", carriers.length ? `Carriers ${carriers.length}` : "Carriers"], ["labels", "Labels"]];
  return (
    <>
      <BenchHead
        title=""
        note={
          <Flex gap="14px" align="center" role="tablist">
            {tabs.map(([value, label]) => (
              <chakra.button key={value} type="button" role="tab" aria-selected={tab === value} cursor="pointer" color={tab === value ? "text" : "dim"} fontWeight={tab === value ? 600 : 400} onClick={() => setTab(value)}>
                {label}
              </chakra.button>
            ))}
            {tab === "fixtures" && <Box>{rows.filter((one) => chosen.has(one.id)).length} of {rows.length} selected</Box>}
          </Flex>
        }
      >
        {tab === "fixtures" && (
          <>
            <FillDown column={columns.find((one) => one.title === column)} rows={rows.filter((row) => chosen.has(row.id))} rowKey={(row) => row.id} onCells={cells} />
            <Filter sought={sought} onSeek={setSought} found={rows.map((row) => row.id)} hint="heron 61-68 choir" />
            <Action look={choosing ? "on" : "quiet"} height="24px" aria-pressed={choosing} onClick={() => setChoosing(!choosing)}>Columns</Action>
          </>
        )}
      </BenchHead>
      {tab === "fixtures" && choosing && (
        <Flex wrap="wrap" gap="4px" px="14px" py="6px" borderBottom="1px solid" borderColor="line" role="group" aria-label="Columns that are shown">
          {columns.map(({ title }) => {
            const on = shown.includes(title);
            return <Action key={title} look={on ? "on" : "quiet"} height="22px" fontSize="11.5px" aria-pressed={on} onClick={() => keep(on ? shown.filter((one) => one !== title) : [...shown, title])}>{title}</Action>;
          })}
        </Flex>
      )}
      {tab === "fixtures" && (all.length ? (
        <Table label="Fixtures" rows={rows} rowKey={(row) => row.id} selected={chosen} onSelect={select} onCells={cells} onColumn={(one) => setColumn(one.title)} columns={used} />
      ) : (
        <Empty>Fixtures are listed here. Choose a type in the card and point at a rail, or place several along it at once.</Empty>
      ))}
      {tab === "carriers" && <Carriers />}
      {tab === "labels" && <LabelStyles />}
    </>
  );
}

type Fixture = Thing<"fixture">;

function useColumns(): Column<Fixture>[] {
  const types = useShow((state) => state.types);
  const mounts = useShow((state) => state.mounts);
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  const hangText = useHangText();
  const plain = (title: string, field: "purpose" | "note" | "circuit"): Column<Fixture> => ({ title, field, cell: (row) => row.body[field] ?? "", text: (row) => row.body[field] ?? "", sort: (row) => row.body[field] ?? "" });
  const count = (title: string, field: "number" | "unit" | "dimmer", width: string): Column<Fixture> => ({
    title, field, numeric: true, width, cell: (row) => row.body[field] ?? (field === "number" ? "none" : ""), text: (row) => String(row.body[field] ?? ""), sort: (row) => row.body[field] ?? 1e9,
  });
  return [
    count("No.", "number", "52px"),
    count("Unit", "unit", "48px"),
    { title: "Type", cell: (row) => types[row.body.type]?.name ?? "lost", sort: (row) => types[row.body.type]?.name ?? "" },
    { title: "On", cell: (row) => hangText(row)[0], sort: (row) => hangText(row)[0] },
    { title: "Along", field: "along", numeric: true, signs: "adds", cell: (row) => hangText(row)[1], text: (row) => hangText(row)[1], sort: (row) => row.body.hang?.along_m ?? -1 },
    { title: "Side", field: "side", cell: (row) => row.body.hang?.side ?? "", text: (row) => row.body.hang?.side ?? "", sort: (row) => row.body.hang?.side ?? "" },
    { title: "About rail", field: "about rail", numeric: true, signs: "own", cell: (row) => (row.body.hang ? `${row.body.hang.turn_deg ?? 0}°` : ""), text: (row) => String(row.body.hang?.turn_deg ?? ""), sort: (row) => row.body.hang?.turn_deg ?? 0 },
    { title: "Height", numeric: true, cell: (row) => length(mounts[row.id]?.position[2] ?? 0, system), sort: (row) => mounts[row.id]?.position[2] ?? 0 },
    { title: "Mode", field: "mode", cell: (row) => row.body.mode, text: (row) => row.body.mode, sort: (row) => row.body.mode },
    { title: "Address", numeric: true, cell: (row) => address(row.body.universe, row.body.address), sort: (row) => (row.body.universe ?? 1e5) * 1000 + (row.body.address ?? 0) },
    plain("For", "purpose"),
    { title: "Gel", field: "gel", cell: (row) => <GelSign gel={row.body.gel} />, text: (row) => gelText(row.body.gel), sort: (row) => gelText(row.body.gel) },
    plain("Circuit", "circuit"),
    count("Dimmer", "dimmer", "60px"),
    plain("Note", "note"),
    { title: "Layer", cell: (row) => called(objects[objects[row.id]?.layer ?? ""]), sort: (row) => called(objects[objects[row.id]?.layer ?? ""]) },
    { title: "Carrier", cell: (row) => called(objects[objects[row.id]?.parent ?? ""]), sort: (row) => called(objects[objects[row.id]?.parent ?? ""]) },
  ];
}

/** The carriers as a tree: each with what is on it. */
function Carriers() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const children = useMemo(() => {
    const found: Record<string, string[]> = {};
    for (const row of Object.values(objects)) if (row.parent) (found[row.parent] ??= []).push(row.id);
    return found;
  }, [objects]);
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const movers = useMemo(() => {
    const found: Record<string, string> = {};
    for (const one of things(objects, "fixture")) if (one.body.drives) found[one.body.drives.thing] = `${found[one.body.drives.thing] ? `${found[one.body.drives.thing] ?? ""} and` : "moved by"} ${one.body.number == null ? "a driver" : `driver ${one.body.number}`}`;
    return found;
  }, [objects]);
  const roots = things(objects, "carrier").filter((one) => !objects[one.id]?.parent);
  if (!roots.length) return <Empty>A carrier is one handle for anything: a lantern, a bridge, a wagon. Select what belongs together, then make one in the card under Carry.</Empty>;
  const line = (id: string, deep: number): React.ReactNode => {
    const row = objects[id];
    if (!row) return null;
    const inside = children[id] ?? [];
    const number = row.kind === "carrier" || row.kind === "fixture" ? row.body.number : null;
    const on = selection.includes(id);
    return (
      <Box key={id}>
        <Flex data-id={id} align="center" height="25px" gap="8px" px="10px" pl={`${10 + deep * 20}px`} fontSize="12.5px" cursor="pointer" bg={on ? "verdigrisDeep" : "transparent"} _hover={{ bg: on ? "verdigrisDeep" : "ink2" }} role="treeitem" aria-selected={on} tabIndex={0} onClick={(event) => select([id], event.ctrlKey)}>
          {row.kind === "carrier" ? (
            <chakra.button type="button" width="14px" color="dim" cursor="pointer" aria-label={`${open.has(id) ? "Fold" : "Unfold"} ${called(row)}`} onClick={(event) => { event.stopPropagation(); const next = new Set(open); if (!next.delete(id)) next.add(id); setOpen(next); }}>{open.has(id) ? "▾" : "▸"}</chakra.button>
          ) : <Box width="14px" />}
          <Box width="200px" truncate>{row.kind === "fixture" ? `${row.body.drives ? "Driver" : "Fixture"} ${called(row)}` : called(row)}</Box>
          <Box width="60px" fontFamily="mono" fontSize="12px" textAlign="right">{row.kind === "carrier" ? (number ?? "") : ""}</Box>
          <Box color="dim">{row.kind === "fixture" && row.body.drives ? "driver" : row.kind}{row.kind === "carrier" ? `, ${inside.filter((one) => { const on = objects[one]; return on?.kind !== "fixture" || !on.body.drives; }).length} on it` : ""}{movers[id] ? `, ${movers[id]}` : ""}</Box>
        </Flex>
        {row.kind === "carrier" && open.has(id) && inside.map((one) => line(one, deep + 1))}
      </Box>
    );
  };
  return <Box overflow="auto" flex="1" minHeight="0" role="tree" aria-label="Carriers" py="4px">{roots.map((one) => line(one.id, 0))}</Box>;
}
