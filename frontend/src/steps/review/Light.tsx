import { Box } from "@chakra-ui/react";
import { type Column, Table } from "../../kit/Table";
import { Empty } from "../../kit/controls";
import { thing, things, useShow } from "../../show/document";
import { lookName } from "../../show/looks";
import { DRIVEN, freshMap, useReview } from "../../show/review";
import type { Row, Thing } from "../../show/types";

/** An area in one of the looks that it was measured in; the look is empty where it was measured in none. */
interface Line {
  key: string;
  area: Thing<"area">;
  look: string;
  measured: { made_of: string; mean: number; least: number; most: number } | undefined;
}

export const lux = (value: number): string => (value < 9.95 ? value.toFixed(1) : String(Math.round(value)));

/** What a look is called where light is measured. */
export const measuredIn = (objects: Record<string, Row>, look: string): string => (look === DRIVEN ? "as it was driven" : lookName(thing(objects, look, "look")));

/** What is wanted of an area, and how a mean stands to that. */
export function wantedOf(area: Thing<"area">["body"], mean?: number): { text: string; off: boolean } {
  if (area.wanted_lx == null) return { text: "", off: false };
  const off = mean !== undefined && Math.abs(mean / area.wanted_lx - 1) * 100 > (area.tolerance ?? 20);
  return { text: `${lux(area.wanted_lx)} lx ± ${area.tolerance ?? 20} %`, off };
}

/** Areas and what was measured on them, look by look. */
export function Light() {
  const objects = useShow((state) => state.objects);
  // Whether a map is old hangs on both.
  useShow((state) => state.stand);
  useShow((state) => state.looks);
  const { area, look } = useReview();
  const lines = things(objects, "area").flatMap((one): Line[] => {
    const maps = Object.entries(one.body.maps ?? {}).filter(([key]) => key === DRIVEN || objects[key]);
    if (!maps.length) return [{ key: `${one.id} `, area: one, look: "", measured: undefined }];
    return maps.map(([key, measured]) => ({ key: `${one.id} ${key}`, area: one, look: key, measured }));
  });
  const figure = (title: string, of: (line: Line) => number | undefined, write = lux): Column<Line> => ({ title, numeric: true, sort: (line) => of(line) ?? -1, cell: (line) => (of(line) === undefined ? "" : write(of(line) as number)) });
  if (!lines.length) return <Empty>Areas where light is measured: on a deck, or on faces above it. Add one with the card, measure it in a look, and its light is painted on the stage.</Empty>;
  return (
    <Box display="flex" flexDirection="column" minHeight="0" flex="1">
      <Table
        label="Measured areas"
        rows={lines}
        rowKey={(line) => line.key}
        selected={new Set([`${area} ${look}`, ...(lines.some((line) => line.key === `${area} ${look}`) ? [] : [`${area} `])])}
        onSelect={([key]) => {
          const [id = "", of = ""] = (key ?? "").split(" ");
          useReview.setState(of ? { area: id, look: of } : { area: id, map: null });
        }}
        mark={(line) => (line.measured && wantedOf(line.area.body, line.measured.mean).off ? "ember" : undefined)}
        columns={[
          { title: "Area", sort: (line) => line.area.body.name, cell: (line) => line.area.body.name },
          { title: "Faces", cell: (line) => (line.area.body.faces === "towards" ? "upright" : "level") },
          { title: "Look", sort: (line) => line.look, cell: (line) => (line.look ? measuredIn(objects, line.look) : "not measured yet") },
          figure("Mean lx", (line) => line.measured?.mean),
          figure("Least", (line) => line.measured?.least),
          figure("Most", (line) => line.measured?.most),
          figure("Least / mean", (line) => (line.measured ? (line.measured.mean > 0 ? line.measured.least / line.measured.mean : 0) : undefined), (value) => value.toFixed(2)),
          { title: "Wanted", cell: (line) => wantedOf(line.area.body).text },
          { title: "", cell: (line) => (!line.measured ? "" : !freshMap(line.look, line.measured.made_of) ? "◇ of before" : wantedOf(line.area.body, line.measured.mean).off ? "◇ off" : "") },
        ]}
      />
    </Box>
  );
}
