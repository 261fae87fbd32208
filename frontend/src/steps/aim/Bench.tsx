import { useShow } from "../../show/document";
import { useLink } from "../../show/connection";
import { select, useSelection } from "../../show/selection";
import { BenchHead, Empty } from "../../kit/controls";
import { Table } from "../../kit/Table";
import { useFixtures, useHangText } from "../../show/fixtures";
import { angle } from "../../show/format";

const degrees = (radians: number | undefined) => (radians === undefined ? "" : angle((radians * 180) / Math.PI));

export function AimBench() {
  const fixtures = useFixtures();
  const selection = useSelection((state) => state.selection);
  const types = useShow((state) => state.types);
  const drivers = useLink((state) => state.signal?.drivers);
  const hangText = useHangText();
  return (
    <>
      <BenchHead title="Heads" note={`${fixtures.filter((one) => Object.keys(one.body.hands ?? {}).length).length} held by hand`} />
      {fixtures.length ? (
        <Table
          label="Heads"
          rows={fixtures}
          rowKey={(row) => row.id}
          selected={new Set(selection)}
          onSelect={select}
          columns={[
            { title: "No.", numeric: true, width: "52px", cell: (row) => row.body.number ?? "none" },
            { title: "Type", cell: (row) => types[row.body.type]?.name ?? "lost" },
            { title: "On", cell: (row) => hangText(row)[0] },
            { title: "Driven by", cell: (row) => drivers?.[row.id] ?? "" },
            { title: "Pan held", numeric: true, cell: (row) => degrees(row.body.hands?.pan) },
            { title: "Tilt held", numeric: true, cell: (row) => degrees(row.body.hands?.tilt) },
            { title: "Intensity held", numeric: true, cell: (row) => (row.body.hands?.dimmer === undefined ? "" : `${Math.round(row.body.hands.dimmer * 100)} %`) },
            { title: "For", cell: (row) => row.body.purpose ?? "" },
          ]}
        />
      ) : (
        <Empty>There is nothing to aim yet: place fixtures in Hang.</Empty>
      )}
    </>
  );
}
