import { Box, chakra, Flex } from "@chakra-ui/react";
import { type Column, Table } from "../../kit/Table";
import { Action, Empty } from "../../kit/controls";
import { settings, useShow } from "../../show/document";
import { coordinate } from "../../show/format";
import { lookFrom } from "../../show/panes";
import { useReview } from "../../show/review";
import { HouseMap } from "./HouseMap";
import { type Seen, useSeats, useViewpoints } from "./useSeats";

/** Look from a place, and have it chosen. */
export function lookFromPlace(place: Seen): void {
  useReview.setState({ seat: place.id });
  lookFrom("main", place.name, place.eye, place.target);
}

/** What belongs to the head of this bench. */
export function HouseHead({ words, setWords }: { words: string; setWords: (words: string) => void }) {
  return <chakra.input type="search" aria-label="Find a seat" placeholder="row 3, gallery" value={words} onChange={(event) => setWords(event.target.value)} width="130px" height="24px" px="8px" fontSize="12px" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" />;
}

/** The house: from above, and seat by seat. */
export function House({ words }: { words: string }) {
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  const seats = useSeats();
  const viewpoints = useViewpoints();
  const { sight, seat } = useReview();
  const told = new Map(sight?.seats.map((one) => [one.id, one]));
  const wanted = words.trim().toLowerCase();
  const fits = (place: Seen) => !wanted || `${place.group} ${place.name}`.toLowerCase().includes(wanted);
  const seen = (place: Seen) => told.get(place.id)?.seen ?? 1;
  const rows = (sight ? [...seats] : [...viewpoints, ...seats]).filter(fits);
  if (sight) rows.sort((a, b) => seen(a) - seen(b));
  const places: Column<Seen>[] = [
    { title: "SL / SR", numeric: true, sort: (row) => row.eye[0], cell: (row) => coordinate(row.eye[0], "x", system) },
    { title: "US / DS", numeric: true, sort: (row) => row.eye[1], cell: (row) => coordinate(row.eye[1], "y", system) },
    { title: "Eye height", numeric: true, sort: (row) => row.eye[2], cell: (row) => coordinate(row.eye[2], "z", system) },
  ];
  const seeing: Column<Seen>[] = [
    { title: "Sees", numeric: true, sort: seen, cell: (row) => `${Math.round(seen(row) * 100)} %` },
    { title: "Hidden by", cell: (row) => <Box width="150px" truncate title={told.get(row.id)?.hidden_by.join(", ")}>{told.get(row.id)?.hidden_by.join(", ") ?? ""}</Box> },
  ];
  if (!seats.length && !viewpoints.length) return <Empty>Seats are the people of the site: who sits, and all of each crowd. Add some in Site, or name where you look from now.</Empty>;
  return (
    <Flex flex="1" minHeight="0">
      {seats.length > 0 && <HouseMap seats={seats} onSeat={lookFromPlace} />}
      <Flex direction="column" flex="1.25 1 0" minWidth="0" minHeight="0">
        <Table
          label="Seats and viewpoints"
          rows={rows}
          rowKey={(row) => row.id}
          selected={new Set([seat])}
          onSelect={([id]) => useReview.setState({ seat: id ?? "" })}
          columns={[
            { title: "Place", sort: (row) => row.name, cell: (row) => row.name },
            { title: "Block", sort: (row) => row.group, cell: (row) => row.group },
            ...(sight ? seeing : places),
            {
              title: "",
              cell: (row) => (
                <Action look="quiet" height="20px" aria-label={`Look from here: ${row.name}${row.group ? `, ${row.group}` : ""}`} onClick={() => lookFromPlace(row)}>
                  {sight ? "from here" : "look from here"}
                </Action>
              ),
            },
          ]}
        />
      </Flex>
    </Flex>
  );
}
