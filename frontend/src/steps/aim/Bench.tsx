import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, BenchHead, Empty } from "../../kit/controls";
import { Table } from "../../kit/Table";
import { useLink } from "../../show/connection";
import { called, settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useFixtures, useHangText } from "../../show/fixtures";
import { angle, coordinate, length, many } from "../../show/format";
import { lightText, useLandings } from "../../show/landings";
import { aimedAt, take } from "../../show/pointing";
import { select, useSelection } from "../../show/selection";
import type { Thing } from "../../show/types";
import type { Driver } from "../../stage/data";
import { Palettes } from "./Palettes";

const degrees = (radians: number | undefined) => (radians === undefined ? "" : angle((radians * 180) / Math.PI));
const DRAGGED = "application/x-zarfwright-fixtures";

type View = "points" | "palettes" | "table";
const VIEWS: Record<View, string> = { points: "By what they point at", palettes: "Palettes", table: "Heads" };
const BUTTONS: Record<View, string> = { points: "By focus point", palettes: "Palettes", table: "As a table" };

/** The heads, by what they point at or as a table. */
export function AimBench() {
  const fixtures = useFixtures();
  const [view, setView] = useState<View>("points");
  const selection = useSelection((state) => state.selection);
  if (!fixtures.length) return <Empty>There is nothing to aim yet: place fixtures in Hang.</Empty>;
  return (
    <>
      <BenchHead title={VIEWS[view]} note={<Drivers />}>
        {(Object.keys(VIEWS) as View[]).map((one) => (
          <Action key={one} look="quiet" height="22px" aria-pressed={view === one} color={view === one ? "brass" : undefined} onClick={() => setView(one)}>
            {BUTTONS[one]}
          </Action>
        ))}
      </BenchHead>
      {view === "points" ? <ByPoint fixtures={fixtures} /> : view === "palettes" ? <Palettes chosen={fixtures.filter((one) => selection.includes(one.id))} /> : <AsTable fixtures={fixtures} />}
    </>
  );
}

const MARKS: [Driver, string, string, string][] = [
  ["hands", "M-4-4H4V4H-4Z", "ember", "by hand"],
  ["console", "M0-5 5 4H-5Z", "verdigris", "by a console"],
  ["look", "M4 0A4 4 0 1 1-4 0 4 4 0 1 1 4 0", "", "by the look"],
];

/** Who drives: as many as by hand, by a console, by the look, with the marks that they have in the picture. */
function Drivers() {
  const drivers = useLink((state) => state.signal?.drivers);
  const counts = Object.values(drivers ?? {});
  return (
    <chakra.span display="inline-flex" gap="12px">
      {MARKS.map(([driver, shape, colour, says]) => (
        <chakra.span key={driver} display="inline-flex" gap="5px" alignItems="center">
          <Mark shape={shape} colour={colour} />
          {counts.filter((one) => one === driver).length} {says}
        </chakra.span>
      ))}
    </chakra.span>
  );
}

function Mark({ shape, colour }: { shape: string; colour: string }) {
  return (
    <chakra.svg width="8px" height="8px" viewBox="-6 -6 12 12" aria-hidden fill={colour || "none"} stroke={colour || "dim"} strokeWidth="1.6">
      <path d={shape} />
    </chakra.svg>
  );
}

/** A row a focus point, its heads as chips that are dragged from one to another. */
function ByPoint({ fixtures }: { fixtures: readonly Thing<"fixture">[] }) {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const points = things(objects, "focus point");
  const chosen = fixtures.filter((one) => selection.includes(one.id)).map((one) => one.id);
  const elsewhere = fixtures.filter((one) => one.body.aim && !one.body.aim.point);
  const held = fixtures.filter((one) => !one.body.aim && (one.body.hands?.pan !== undefined || one.body.hands?.tilt !== undefined || one.body.fixed?.pan !== undefined));
  const { system } = settings(objects);
  const where = (point: Thing<"focus point">) => {
    const [x, y, z] = point.body.position ?? [0, 0, 0];
    return `${coordinate(x, "x", system)}, ${coordinate(y, "y", system)}, ${coordinate(z, "z", system)}`;
  };
  const none = points.length === 0 && <Empty>Focus points go here. Aim some fixtures, then name the place in the card: whatever is aimed at it follows when it moves.</Empty>;
  if (none && !elsewhere.length && !held.length) return none;
  return (
    <Box overflow="auto" flex="1">
      {none}
      <Box role="table" aria-label="By what they point at">
      {points.map((point) => (
        <Row
          key={point.id} title={`${point.body.number == null ? "" : `${point.body.number}  `}${point.body.name}`} note={point.body.rides ? `rides on ${called(objects[point.body.rides])}` : where(point)}
          heads={fixtures.filter((one) => one.body.aim?.point === point.id)} on={selection.includes(point.id)} onTitle={() => select([point.id])}
          onDrop={(ids) => void edit("aim at", { ids, focus: point.id }).catch(() => undefined)}
          action={chosen.length ? { label: `Aim ${many(chosen.length, "fixture")} here`, act: () => void take({ focus: point.id, pattern: "point" }) } : undefined}
        />
      ))}
      {elsewhere.length > 0 && <Row title="At a place" note="aimed, but at no focus point" heads={elsewhere} />}
      {held.length > 0 && <Row title="By angles" note="turned by hand" heads={held} />}
      </Box>
    </Box>
  );
}

interface RowProps {
  title: string;
  note: string;
  heads: readonly Thing<"fixture">[];
  on?: boolean;
  onTitle?: () => void;
  onDrop?: (ids: string[]) => void;
  action?: { label: string; act: () => void };
}

function Row({ title, note, heads, on, onTitle, onDrop, action }: RowProps) {
  const selection = useSelection((state) => state.selection);
  const [over, setOver] = useState(false);
  return (
    <Flex
      role="row" aria-label={title} px="14px" minHeight="30px" py="2px" gap="12px" align="center" borderBottom="1px solid" borderColor="line" bg={over ? "ink3" : on ? "ink2" : undefined}
      onDragOver={(event) => {
        if (!onDrop || !event.dataTransfer.types.includes(DRAGGED)) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        setOver(false);
        const ids = JSON.parse(event.dataTransfer.getData(DRAGGED) || "[]") as string[];
        if (ids.length) onDrop?.(ids);
      }}
    >
      <Flex width="330px" flex="none" role="rowheader" gap="10px" align="baseline">
        {onTitle ? (
          <chakra.button type="button" textAlign="left" cursor="pointer" flex="none" fontWeight={600} fontSize="12.5px" color={on ? "verdigris" : "text"} onClick={onTitle}>
            {title}
          </chakra.button>
        ) : (
          <Box fontSize="12.5px" color="dim">{title}</Box>
        )}
        <Box color="faint" fontSize="11px" flex="1" minWidth="0" truncate>{note}</Box>
      </Flex>
      <Flex flex="1" gap="4px" wrap="wrap" role="cell">
        {heads.map((head) => (
          <Chip key={head.id} head={head} on={selection.includes(head.id)} />
        ))}
      </Flex>
      {action && (
        <Box role="cell" flex="none">
          <Action look="quiet" height="22px" onClick={action.act}>
            {action.label}
          </Action>
        </Box>
      )}
    </Flex>
  );
}

/** One head: a click selects it, dragged on another row it is aimed there. */
function Chip({ head, on }: { head: Thing<"fixture">; on: boolean }) {
  const held = Object.keys(head.body.hands ?? {}).length > 0;
  return (
    <chakra.button
      type="button" draggable aria-pressed={on} title={[head.body.purpose, held && "held by hand"].filter(Boolean).join(", ")} fontFamily="mono" fontSize="11.5px" px="6px" py="1px" borderRadius="9px" border="1px solid" cursor="grab"
      borderColor={on ? "verdigris" : "line"} color={on ? "verdigris" : "text"}
      onClick={(event) => select([head.id], event.shiftKey || event.ctrlKey)}
      onDragStart={(event) => event.dataTransfer.setData(DRAGGED, JSON.stringify(on ? useSelection.getState().selection : [head.id]))}
    >
      {called(head)}
      {held && <chakra.span ml="4px" display="inline-block"><Mark shape="M-4-4H4V4H-4Z" colour="ember" /></chakra.span>}
    </chakra.button>
  );
}

function AsTable({ fixtures }: { fixtures: readonly Thing<"fixture">[] }) {
  const selection = useSelection((state) => state.selection);
  const types = useShow((state) => state.types);
  const drivers = useLink((state) => state.signal?.drivers);
  const hangText = useHangText();
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  // Of a batten its first cell's.
  const landed = new Map(useLandings(null).map((one) => [one.fixture, one] as const).reverse());
  return (
    <Table
      label="Heads"
      rows={fixtures as Thing<"fixture">[]}
      rowKey={(row) => row.id}
      selected={new Set(selection)}
      onSelect={select}
      columns={[
        { title: "No.", numeric: true, width: "52px", cell: (row) => row.body.number ?? "none" },
        { title: "Type", cell: (row) => types[row.body.type]?.name ?? "lost" },
        { title: "On", cell: (row) => hangText(row)[0] },
        { title: "Driven by", cell: (row) => drivers?.[row.id] ?? "" },
        { title: "Aimed at", cell: (row) => aimedAt(row.id) },
        { title: "Lands on", cell: (row) => called(objects[landed.get(row.id)?.thing ?? ""]) },
        { title: "Throw", numeric: true, cell: (row) => (landed.has(row.id) ? length(landed.get(row.id)?.throw_m ?? 0, system) : "") },
        { title: "There", numeric: true, cell: (row) => (landed.has(row.id) ? lightText(landed.get(row.id)?.lux ?? 0, system) : "") },
        { title: "Pan set", numeric: true, cell: (row) => degrees(row.body.hands?.pan ?? row.body.fixed?.pan) },
        { title: "Tilt set", numeric: true, cell: (row) => degrees(row.body.hands?.tilt ?? row.body.fixed?.tilt) },
        { title: "Intensity held", numeric: true, cell: (row) => (row.body.hands?.dimmer === undefined ? "" : `${Math.round(row.body.hands.dimmer * 100)} %`) },
        { title: "For", cell: (row) => row.body.purpose ?? "" },
      ]}
    />
  );
}
