import { Table } from "../../kit/Table";
import { Empty } from "../../kit/controls";
import { called, thing, useShow } from "../../show/document";
import { lookName } from "../../show/looks";
import { notesInOrder, useReview } from "../../show/review";
import type { Row, Thing } from "../../show/types";

/** When something was said, for people here. */
export function when(at: string | undefined): string {
  const moment = at ? new Date(at) : null;
  return moment && !Number.isNaN(moment.getTime()) ? moment.toLocaleString([], { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" }) : "";
}

/** What a note is on. */
export function aboutOf(objects: Record<string, Row>, note: Thing<"note">["body"]): string {
  if (note.about && !objects[note.about]) return "what is gone";
  const look = thing(objects, note.about, "look");
  if (look) return `look ${lookName(look)}`;
  if (note.about) {
    const name = called(objects[note.about]);
    return objects[note.about]?.kind === "fixture" ? `fixture ${name}` : `${name}${note.seat ? `, place ${note.seat.split("/")[1] ?? ""}` : ""}`;
  }
  return note.place ? "a place" : "the show";
}

export const stateOf = (note: Thing<"note">["body"]): string => note.verdict || (note.done ? "done" : "open");

/** All notes, open ones first. */
export function Notes({ words, open }: { words: string; open: boolean }) {
  const objects = useShow((state) => state.objects);
  const chosen = useReview((state) => state.note);
  const all = notesInOrder(objects);
  const wanted = words.trim().toLowerCase();
  const rows = all
    .map((note, i) => ({ note, number: i + 1 }))
    .filter(({ note: { body } }) => (!open || (!body.done && body.verdict !== "agreed")) && (!wanted || [body.text, body.who, aboutOf(objects, body), ...(body.tags ?? []).map((tag) => `#${tag}`)].join(" ").toLowerCase().includes(wanted)));
  if (!all.length) return <Empty>Notes of a review: on a look, a fixture, a seat or a place of the picture. Write one with the card; it is pinned where it belongs, and listed here until it is done.</Empty>;
  return (
    <Table
      label="Notes"
      rows={rows}
      rowKey={({ note }) => note.id}
      selected={new Set([chosen])}
      onSelect={([id]) => useReview.setState({ note: id ?? "" })}
      mark={({ note }) => (note.body.verdict === "not yet" ? "ember" : undefined)}
      columns={[
        { title: "No.", numeric: true, sort: ({ number }) => number, cell: ({ number }) => number },
        { title: "Note", cell: ({ note }) => `${note.body.strokes?.length ? "✎ " : ""}${(note.body.text ?? "").split("\n")[0] || (note.body.verdict ? `Says “${note.body.verdict}”` : "drawn")}` },
        { title: "On", sort: ({ note }) => aboutOf(objects, note.body), cell: ({ note }) => aboutOf(objects, note.body) },
        { title: "Who", sort: ({ note }) => note.body.who ?? "", cell: ({ note }) => note.body.who },
        { title: "When", sort: ({ note }) => note.body.at ?? "", cell: ({ note }) => when(note.body.at) },
        { title: "Tags", cell: ({ note }) => (note.body.tags ?? []).map((tag) => `#${tag}`).join(" ") },
        { title: "State", sort: ({ note }) => stateOf(note.body), cell: ({ note }) => stateOf(note.body) },
      ]}
    />
  );
}
