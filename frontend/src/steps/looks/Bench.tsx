import { settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { select, useSelection } from "../../show/selection";
import { Action, BenchHead, Empty } from "../../kit/controls";
import { Table } from "../../kit/Table";

/** How many fixtures some keys are of: a cell is `id/3`. */
const fixturesOf = (keys: string[]): number => new Set(keys.map((key) => key.split("/")[0])).size;

export function LooksBench() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const show = settings(objects);
  const looks = things(objects, "look");
  return (
    <>
      <BenchHead title="Looks" note={`${looks.length} kept`} />
      {looks.length ? (
        <Table
          label="Looks"
          rows={[...looks]}
          rowKey={(row) => row.id}
          selected={new Set(selection)}
          onSelect={select}
          columns={[
            { title: "No.", numeric: true, width: "52px", cell: (row) => row.body.number },
            { title: "Name", cell: (row) => row.body.name },
            { title: "Fixtures", numeric: true, cell: (row) => fixturesOf(Object.keys(row.body.values)) },
            { title: "Lit", numeric: true, cell: (row) => fixturesOf(Object.entries(row.body.values).filter(([, values]) => (values.dimmer ?? 0) > 0 && (values.shutter ?? 1) > 0).map(([key]) => key)) },
            { title: "Note", cell: (row) => row.body.note ?? "" },
            {
              title: "",
              cell: (row) => (
                <Action
                  look={show.playing === row.id ? "on" : "quiet"}
                  height="20px"
                  aria-label={show.playing === row.id ? `Playing: ${row.body.name}` : `Recall ${row.body.name}`}
                  onClick={(event) => {
                    event.stopPropagation();
                    void edit("play look", { id: row.id }).catch(() => undefined);
                  }}
                >
                  {show.playing === row.id ? "playing" : "recall"}
                </Action>
              ),
            },
          ]}
        />
      ) : (
        <Empty>Looks are kept here. Set up a picture with the console or by hand, then keep it with the card.</Empty>
      )}
    </>
  );
}
