import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Section } from "../../kit/controls";
import { called, thing, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { lookName, looksInOrder } from "../../show/looks";
import { answerNote, beginDrawn, goToNote, pathOf, standingOf, viewNow, writeNote } from "../../show/notes";
import { usePanes } from "../../show/panes";
import { myName, setMyName } from "../../show/presence";
import { forgetPlace, nextLook, toggleAsk, useReview } from "../../show/review";
import { useSelection } from "../../show/selection";
import type { Thing } from "../../show/types";
import { aboutOf, stateOf, when } from "./Notes";
import { useSeats } from "./useSeats";

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);
const AREA = { width: "100%", px: "8px", py: "6px", mb: "6px", bg: "ink1", border: "1px solid", borderColor: "line", borderRadius: "5px", fontSize: "12.5px", resize: "vertical" } as const;

/** The note that is chosen, what is said of looks, and a new note. */
export function NotesCard() {
  const objects = useShow((state) => state.objects);
  const { note } = useReview();
  const chosen = thing(objects, note, "note");
  return (
    <>
      {chosen && <Chosen key={chosen.id} note={chosen} />}
      <Write folded={chosen !== undefined} />
      <Verdicts />
    </>
  );
}

/** What a new note is on: the place clicked, the seat, what is selected, the look that is seen; or the show. */
function useAbout(): { value: string; label: string; args: { about?: string; seat?: string; place?: [number, number, number] } }[] {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const { place, seat } = useReview();
  const seats = useSeats();
  usePanes((state) => state.panes);
  const look = thing(objects, viewNow()?.look, "look");
  const sat = seats.find((one) => one.id === seat);
  const item = sat && objects[sat.id.split("/")[0] ?? ""];
  const first = selection.length === 1 ? objects[selection[0] ?? ""] : undefined;
  return [
    ...(place ? [{ value: "place", label: "the place that was clicked", args: { place: place.point, ...(objects[place.thing.split("/")[0] ?? ""] && { about: place.thing.split("/")[0] ?? "" }) } }] : []),
    ...(look ? [{ value: "look", label: `look ${lookName(look)}`, args: { about: look.id } }] : []),
    ...(first ? [{ value: "selected", label: first.kind === "fixture" ? `fixture ${called(first)}` : called(first), args: { about: first.id } }] : []),
    ...(sat && item ? [{ value: "seat", label: `${sat.group ? `${sat.group}, ` : ""}${sat.name}`, args: { about: item.id, seat: sat.id, place: sat.eye } }] : []),
    { value: "show", label: "the show", args: {} },
  ];
}

function Write({ folded }: { folded: boolean }) {
  const { asks } = useReview();
  const inHand = usePanes((state) => state.tool === "ask") && asks === "note";
  const [text, setText] = useState("");
  const [tags, setTags] = useState("");
  const [on, setOn] = useState("");
  const [name, setName] = useState(myName());
  const options = useAbout();
  const about = options.find((one) => one.value === on) ?? options[0];
  const write = () => {
    const now = viewNow();
    quietly(
      writeNote({ text, tags: tags.split(/[\s,]+/).filter(Boolean), ...about?.args, look: now?.look ?? null, seen_from: now?.seenFrom ?? null }).then(() => {
        setText("");
        setTags("");
        forgetPlace();
      }),
    );
  };
  return (
    <Section title={folded ? "Another note" : "A note"}>
      <chakra.textarea aria-label="What is to be noted" rows={folded ? 2 : 3} placeholder="What is to be noted" value={text} onChange={(event) => setText(event.target.value)} {...AREA} />
      <Choice label="On" value={about?.value ?? ""} options={options} onChange={setOn} />
      <Flex gap="6px" mb="6px">
        <chakra.input aria-label="Tags of the note" placeholder="#focus #colour" value={tags} onChange={(event) => setTags(event.target.value)} {...AREA} mb="0" />
        <chakra.input aria-label="Who says it" value={name} onChange={(event) => { setName(event.target.value); setMyName(event.target.value); }} {...AREA} mb="0" />
      </Flex>
      <Action look="main" disabled={!text.trim()} onClick={write}>Write the note</Action>
      <Flex gap="4px" mt="6px" wrap="wrap">
        <Action look="quiet" height="24px" aria-pressed={inHand} onClick={() => toggleAsk("note")}>{inHand ? "Click a place in the picture" : "Pin it to a place"}</Action>
        <Action look="quiet" height="24px" onClick={() => void beginDrawn()}>Draw on the picture</Action>
      </Flex>
    </Section>
  );
}

function Chosen({ note }: { note: Thing<"note"> }) {
  const objects = useShow((state) => state.objects);
  const { body } = note;
  const [answer, setAnswer] = useState("");
  return (
    <Section>
      <Flex align="baseline" gap="8px">
        <Box as="h2" fontSize="15px" fontWeight={600} flex="1" css={{ overflowWrap: "anywhere", whiteSpace: "pre-line" }}>{body.text || body.verdict || "A drawn note"}</Box>
        <Box fontSize="12px" color={stateOf(body) === "open" || stateOf(body) === "not yet" ? "ember" : "verdigris"}>{stateOf(body)}</Box>
      </Flex>
      <Box fontSize="12px" color="dim" mb="6px">{[aboutOf(objects, body), body.who, when(body.at), ...(body.tags ?? []).map((tag) => `#${tag}`)].filter(Boolean).join(" · ")}</Box>
      {body.picture && <NotePicture note={note} />}
      {(body.answers ?? []).map((one, i) => (
        <Box key={i} fontSize="12.5px" borderLeft="2px solid" borderColor="brassDeep" pl="8px" mb="4px">
          {one.text}
          <Box color="dim" fontSize="11.5px">{[one.who, when(one.at)].filter(Boolean).join(", ")}</Box>
        </Box>
      ))}
      <Flex gap="6px" mb="6px">
        <chakra.input aria-label="An answer" placeholder="Answer" value={answer} onChange={(event) => setAnswer(event.target.value)} {...AREA} mb="0" />
        <Action disabled={!answer.trim()} onClick={() => quietly(answerNote(note.id, answer).then(() => setAnswer("")))}>Answer</Action>
      </Flex>
      {!body.verdict && <Action look="main" mb="6px" onClick={() => quietly(edit("set note", { ids: [note.id], done: !body.done }))}>{body.done ? "Open it again" : "It is done"}</Action>}
      <Flex gap="4px" wrap="wrap">
        {(body.seen_from ?? body.look) && <Action look="quiet" height="24px" onClick={() => goToNote(note)}>Show it as it was seen</Action>}
        <Action look="quiet" height="24px" onClick={() => quietly(edit("remove", { ids: [note.id] }).then(() => useReview.setState({ note: "" })))}>Remove the note</Action>
      </Flex>
    </Section>
  );
}

/** The picture of a note with what was drawn on it. */
function NotePicture({ note }: { note: Thing<"note"> }) {
  const show = useShow((state) => state.id);
  const [[width, height], setSize] = useState([16, 9]);
  return (
    <Box position="relative" mb="8px">
      <img src={`/api/shows/${show}/notes/${note.id}/picture`} alt="What the note was drawn on" style={{ width: "100%", display: "block" }} onLoad={(event) => setSize([event.currentTarget.naturalWidth, event.currentTarget.naturalHeight])} />
      <chakra.svg position="absolute" inset="0" width="100%" height="100%" viewBox={`0 0 ${width} ${height}`} stroke="brass" fill="none" aria-hidden>
        {(note.body.strokes ?? []).map((stroke, i) => <path key={i} d={pathOf(stroke, width, height)} strokeWidth={Math.max(width / 160, 2)} strokeLinecap="round" strokeLinejoin="round" />)}
      </chakra.svg>
    </Box>
  );
}

/** What people say of each look; the next look by one key. */
function Verdicts() {
  const objects = useShow((state) => state.objects);
  const looks = looksInOrder(objects);
  const notes = things(objects, "note");
  const playing = thing(objects, "show", "show")?.body.playing ?? "";
  const look = looks.find((one) => one.id === playing) ?? looks[0];
  if (!look) return null;
  const said = standingOf(notes, look.id);
  const count = looks.filter((one) => standingOf(notes, one.id).verdict === "agreed").length;
  const judge = (verdict: "agreed" | "not yet") => quietly(writeNote({ verdict, about: look.id, look: look.id }));
  return (
    <Section title={`Look ${lookName(look)}`}>
      <Box fontSize="12px" mb="6px">
        {said.agreed.length > 0 && <Box color="verdigris">agreed: {said.agreed.join(", ")}</Box>}
        {said.notYet.length > 0 && <Box color="ember">not yet: {said.notYet.join(", ")}</Box>}
        {!said.verdict && <Box color="dim">Nobody has said anything of it yet.</Box>}
      </Box>
      <Flex gap="6px" mb="6px">
        <Action flex="1" onClick={() => judge("agreed")}>Agreed</Action>
        <Action flex="1" onClick={() => judge("not yet")}>Not yet</Action>
        <Action flex="1" title="Recall the look after this one (N)" onClick={() => quietly(nextLook(1))}>Next look</Action>
      </Flex>
      <Box fontSize="12px" color="dim">{count} of {looks.length} looks agreed</Box>
    </Section>
  );
}
