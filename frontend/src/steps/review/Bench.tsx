import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Table } from "../../kit/Table";
import { Action, BenchHead, Empty } from "../../kit/controls";
import { get } from "../../show/api";
import { settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useFetched } from "../../show/fetched";
import { coordinate, many } from "../../show/format";
import { notify } from "../../show/messages";
import { lookFrom, usePanes } from "../../show/panes";

type Vec3 = [number, number, number];
interface Place {
  id: string;
  name: string;
  group: string;
  eye: Vec3;
  target: Vec3;
}

export function ReviewBench() {
  const objects = useShow((state) => state.objects);
  const stage = usePanes((state) => state.stage);
  const { system } = settings(objects);
  const seats = useFetched("seats", (show) => get("/api/shows/{show}/seats", { params: { path: { show } } })) ?? [];
  const [words, setWords] = useState("");
  const places: Place[] = [
    ...things(objects, "viewpoint").map(({ id, body }) => ({ id, name: body.name, group: "viewpoint", eye: body.eye, target: body.target })),
    ...seats,
  ];
  const wanted = words.trim().toLowerCase();
  const shown = wanted ? places.filter((place) => `${place.group} ${place.name}`.toLowerCase().includes(wanted)) : places;
  const keep = () => {
    const from = stage?.viewpoint("main");
    if (!from) return;
    void edit("add viewpoint", { eye: from.eye.toArray(), target: from.target.toArray() }).then(
      (made) => notify(made.sentence),
      () => undefined,
    );
  };
  return (
    <>
      <BenchHead title="Seats and viewpoints" note={`${many(seats.length, "seat")}, ${many(places.length - seats.length, "viewpoint")}`}>
        <chakra.input type="search" aria-label="Find a seat" placeholder="row 3, gallery" value={words} onChange={(event) => setWords(event.target.value)} width="150px" height="24px" px="8px" fontSize="12px" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" />
        <Action look="quiet" height="22px" onClick={keep}>
          Name where I look from
        </Action>
      </BenchHead>
      {places.length ? (
        <Table
          label="Seats and viewpoints"
          rows={shown}
          rowKey={(row) => row.id}
          columns={[
            { title: "Place", sort: (row) => row.name, cell: (row) => row.name },
            { title: "Block", sort: (row) => row.group, cell: (row) => row.group },
            { title: "SL / SR", numeric: true, sort: (row) => row.eye[0], cell: (row) => coordinate(row.eye[0], "x", system) },
            { title: "US / DS", numeric: true, sort: (row) => row.eye[1], cell: (row) => coordinate(row.eye[1], "y", system) },
            { title: "Eye height", numeric: true, sort: (row) => row.eye[2], cell: (row) => coordinate(row.eye[2], "z", system) },
            {
              title: "",
              cell: (row) => (
                <Action look="quiet" height="20px" aria-label={`Look from here: ${row.name}${row.group ? `, ${row.group}` : ""}`} onClick={() => lookFrom("main", row.name, row.eye, row.target)}>
                  look from here
                </Action>
              ),
            },
          ]}
        />
      ) : (
        <Empty>Seats are the people of the site: who sits, and all of each crowd. Add some in Site, or name where you look from now.</Empty>
      )}
    </>
  );
}
