import { Flex } from "@chakra-ui/react";
import { useState } from "react";
import { hasField, isA, kindsThatAre } from "../../kinds";
import { FillDown } from "../../kit/FillDown";
import { type CellText, type Column, Table } from "../../kit/Table";
import { Action, BenchHead, Empty } from "../../kit/controls";
import { Filter } from "../../show/Filter";
import { get } from "../../show/api";
import { notify } from "../../show/messages";
import { edit } from "../../show/edits";
import { called, placeOf, settings, useShow, valueOf } from "../../show/document";
import { useFetched } from "../../show/fetched";
import { matches } from "../../show/filter";
import { coordinate, length } from "../../show/format";
import { select, useSelection } from "../../show/selection";
import type { Row } from "../../show/types";
import { Layers } from "./Layers";

const SOLID = kindsThatAre("solid");
const SIZES: Record<string, string[]> = {
  venue: ["width_m", "ridge_m"], deck: ["width_m", "depth_m", "height_m"], truss: ["length_m", "section_m"], wall: ["height_m", "thickness_m"], piece: ["width_m", "depth_m", "height_m"], figure: ["height_m"],
};

/** What a thing is, in a word or two. */
function kindOf(row: Row): string {
  if (row.kind === "figure") return `${row.body.pose ?? "standing"} figure`;
  if (row.kind === "crowd") return row.body.seating === "rows" ? "crowd in rows" : "standing crowd";
  if (row.kind === "deck") return row.body.made ?? "deck";
  if (row.kind === "piece") return row.body.piece ?? row.kind;
  if (row.kind !== "truss") return row.kind;
  const { form, lattice, rake_deg: rake, span_deg: span } = row.body;
  const what = form === "upright" ? "boom" : form === "arc" ? (Number(span) >= 360 ? "ring" : "arc") : lattice === "pipe" ? "pipe" : "truss";
  return Math.abs(Number(rake ?? 0)) > 1e-6 ? `raked ${what}` : what;
}

/** A field of a thing, where its kind has it. */
const named = (row: Row, field: string): string | undefined => (hasField(row.kind, field) ? field : undefined);

function sizeOf(row: Row, system: "metric" | "imperial", scene: Record<string, unknown>): string {
  if (row.kind === "crowd") return `${Object.keys(scene).filter((id) => id.startsWith(`${row.id}/`)).length} people`;
  const keys = row.kind === "truss" && row.body.form === "arc" ? ["diameter_m", "section_m"] : (SIZES[row.kind] ?? []);
  return keys.map((key) => length(Number(valueOf(row, key)), system)).join(" × ");
}

export function SiteBench() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const [layersOpen, setLayersOpen] = useState(false);
  const { system } = settings(objects);
  // What structures weigh by themselves, and what hangs on them.
  const weights = useFetched("structures", (show) => get("/api/shows/{show}/structures", { params: { path: { show } } })) ?? {};
  const weightOf = (row: Row) => {
    const found = weights[row.id];
    return found ? `${found.own_kg.toFixed(0)}${found.fixtures_kg ? ` + ${found.fixtures_kg.toFixed(0)}` : ""} kg` : "";
  };
  const scene = useShow((state) => state.scene);
  const [sought, setSought] = useState("");
  const [column, setColumn] = useState("");
  const rows = Object.values(objects)
    .filter((row) => isA(row.kind, "solid"))
    .filter((row) => matches(sought, [called(row), kindOf(row), row.kind, row.layer ? called(objects[row.layer]) : "", String(valueOf(row, "group") ?? "")]))
    .sort((a, b) => SOLID.indexOf(a.kind) - SOLID.indexOf(b.kind) || a.ord - b.ord);
  const at = (row: Row, axis: "x" | "y" | "z") => {
    const position = placeOf(row);
    return position ? coordinate(position["xyz".indexOf(axis)] as number, axis, system) : "";
  };
  const columns: Column<Row>[] = [
    { title: "Name", field: (row) => named(row, "name"), text: (row) => called(row), cell: (row) => called(row), sort: (row) => called(row) },
    { title: "Kind", cell: kindOf, sort: kindOf },
    { title: "Layer", cell: (row) => (row.layer ? called(objects[row.layer]) : ""), sort: (row) => (row.layer ? called(objects[row.layer]) : "") },
    { title: "Group", cell: (row) => String(valueOf(row, "group") ?? ""), sort: (row) => String(valueOf(row, "group") ?? "") },
    { title: "Size", numeric: true, cell: (row) => sizeOf(row, system, scene) },
    { title: "Weight", numeric: true, cell: weightOf, sort: (row) => -((weights[row.id]?.own_kg ?? 0) + (weights[row.id]?.fixtures_kg ?? 0)) },
    ...(["x", "y", "z"] as const).map((axis, k): Column<Row> => ({
      title: ["SL / SR", "US / DS", "Height"][k] as string, numeric: true, signs: "adds",
      field: (row) => named(row, axis === "z" && row.kind === "truss" && row.body.form !== "upright" ? "trim" : axis),
      cell: (row) => at(row, axis), text: (row) => at(row, axis), sort: (row) => placeOf(row)?.[k] ?? 1e6,
    })),
  ];
  const cells = (list: CellText[], said?: string) => edit("set cells", { cells: list }).then(() => notify(said ?? (list.length === 1 ? "Set" : `${list.length} cells set`)));
  return (
    <>
      <BenchHead title="Site" note={`${selection.length} of ${rows.length} selected`}>
        <FillDown column={columns.find((one) => one.title === column)} rows={rows.filter((row) => selection.includes(row.id))} rowKey={(row) => row.id} onCells={cells} />
        <Filter sought={sought} onSeek={setSought} found={rows.map((row) => row.id)} hint="name, kind, layer" />
        <Action look={layersOpen ? "on" : "quiet"} height="24px" aria-pressed={layersOpen} onClick={() => setLayersOpen(!layersOpen)}>
          Layers
        </Action>
      </BenchHead>
      <Flex flex="1" minHeight="0">
      {rows.length ? (
        <Table
          label="Things on the site"
          rows={rows}
          rowKey={(row) => row.id}
          selected={new Set(selection)}
          onSelect={select}
          onCells={cells}
          onColumn={(one) => setColumn(one.title)}
          columns={columns}
        />
      ) : (
        <Flex flex="1"><Empty>The venue, decks, trusses and people are listed here. Add the first with the card.</Empty></Flex>
      )}
      {layersOpen && <Layers />}
      </Flex>
    </>
  );
}
