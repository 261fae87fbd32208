import { Box } from "@chakra-ui/react";
import { Table } from "../../kit/Table";
import { BenchHead, Empty } from "../../kit/controls";
import { settings, useShow } from "../../show/document";
import { useFixtures, useHangText } from "../../show/fixtures";
import { address, length } from "../../show/format";

/** The patch list as it will be saved, on paper. */
export function PapersBench() {
  const fixtures = useFixtures();
  const types = useShow((state) => state.types);
  const mounts = useShow((state) => state.mounts);
  const { system } = useShow((state) => settings(state.objects));
  const hangText = useHangText();
  return (
    <>
      <BenchHead title="Patch list" note={`${fixtures.length} fixtures, ${fixtures.filter((one) => one.body.address == null).length} without an address`} />
      {fixtures.length ? (
        <Table
          label="Patch list as it will be saved"
          rows={fixtures}
          rowKey={(row) => row.id}
          columns={[
            { title: "Number", numeric: true, cell: (row) => row.body.number ?? "" },
            { title: "Type", cell: (row) => `${types[row.body.type]?.name ?? ""}, ${types[row.body.type]?.maker ?? ""}` },
            { title: "Mode", cell: (row) => row.body.mode },
            { title: "Address", numeric: true, cell: (row) => address(row.body.universe, row.body.address) },
            { title: "On", cell: (row) => hangText(row)[0] },
            { title: "Along", numeric: true, cell: (row) => hangText(row)[1] },
            { title: "Height", numeric: true, cell: (row) => length(mounts[row.id]?.position[2] ?? 0, system) },
            { title: "For", cell: (row) => row.body.purpose ?? "" },
          ]}
        />
      ) : (
        <Empty>
          <Box>Lists are made of what hangs. Place fixtures in Hang first.</Box>
        </Empty>
      )}
    </>
  );
}
