import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action, Choice, Section, Segments } from "../../kit/controls";
import { thing, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { notify } from "../../show/messages";
import { lookFrom, usePanes } from "../../show/panes";
import { askAgain, forgetPlace, type People, toggleAsk, useReview } from "../../show/review";
import { select } from "../../show/selection";
import { lookFromPlace } from "./House";
import { useSeats } from "./useSeats";

const SIZES = [{ value: "0.25", label: "a face, 0.25 m" }, { value: "0.6", label: "a prop, 0.6 m" }, { value: "1.7", label: "a person, 1.7 m" }, { value: "4", label: "a screen, 4 m" }];
const PEOPLE: readonly { value: People; label: string; says: string }[] = [
  { value: "as they are", label: "as they are", says: "People in front sit or stand as they are placed" },
  { value: "standing", label: "all stand", says: "As if all of the audience stood up" },
  { value: "left out", label: "empty", says: "As if nobody sat in front" },
];

/** Who sees a place, what hides it; the seat that is looked from; a walk along viewpoints. */
export function HouseCard() {
  const name = usePanes((state) => state.viewNames.main);
  return (
    <>
      <Section>
        <Box as="h2" fontSize="15px" fontWeight={600}>
          {name || "Review"}
        </Box>
        <Box color="dim" fontSize="12px">
          Click a seat in the house below to look from it
        </Box>
      </Section>
      <WhoSees />
      <TheSeat />
      <Walk />
    </>
  );
}

function WhoSees() {
  const { asks, sight, people, size } = useReview();
  const inHand = usePanes((state) => state.tool === "ask") && asks === "sight";
  return (
    <Section title="Who sees a place">
      <Action look="main" aria-pressed={inHand} mb="8px" onClick={() => toggleAsk("sight")}>
        {inHand ? "Click it in the picture" : "Choose a place"}
      </Action>
      <Choice label="As large as" value={String(size)} options={SIZES} onChange={(value) => { useReview.setState({ size: Number(value) }); askAgain(); }} />
      <Segments name="People in front" value={people} options={PEOPLE} onChange={(value) => { useReview.setState({ people: value }); askAgain(); }} />
      {sight && (
        <Box fontSize="12px">
          <Box fontSize="13px" mb="4px" role="status">
            {sight.seeing} of {many(sight.of, "seat")} see it
          </Box>
          {sight.blocks.map((block) => (
            <Flex key={block.name} gap="8px" align="center">
              <Box flex="1" truncate color="dim">{block.name || "single seats"}</Box>
              <Box width="60px" height="4px" bg="rose" borderRadius="2px" overflow="hidden"><Box height="100%" bg="verdigris" width={`${(100 * block.seeing) / Math.max(block.of, 1)}%`} /></Box>
              <Box fontFamily="mono" width="78px" whiteSpace="nowrap" textAlign="right">{block.seeing} / {block.of}</Box>
            </Flex>
          ))}
          <Box color="dim" fontSize="11px" mt="4px">
            <chakra.span color="verdigris">●</chakra.span> nearly all <chakra.span color="ember">●</chakra.span> more than half <chakra.span color="rose">●</chakra.span> less of it; the worst come first in the list
          </Box>
          <Action look="quiet" height="24px" onClick={forgetPlace}>Forget the place</Action>
        </Box>
      )}
    </Section>
  );
}

/** The seat that is chosen, and what hides the place from it. */
function TheSeat() {
  const objects = useShow((state) => state.objects);
  const { seat, sight } = useReview();
  const found = useSeats().find((one) => one.id === seat);
  if (!found) return null;
  const seen = sight?.seats.find((one) => one.id === seat);
  return (
    <Section title={found.group ? `${found.group}: ${found.name}` : found.name}>
      {seen && (
        <Box fontSize="12px" mb="6px">
          <Box>Sees {Math.round(seen.seen * 100)} % of the place</Box>
          {seen.hidden_by.length > 0 && <Box color="dim">hidden by {seen.hidden_by.join(", ")}</Box>}
        </Box>
      )}
      <Flex gap="6px">
        <Action flex="1" onClick={() => lookFromPlace(found)}>Look from this seat</Action>
        {seen && seen.hiding.length > 0 && <Action flex="1" onClick={() => select([...new Set(seen.hiding.map((key) => key.split("/")[0] ?? ""))].filter((id) => objects[id]))}>Select what hides it</Action>}
      </Flex>
    </Section>
  );
}

/** Keep the place that the free pane is seen from, by a name. */
function keepViewpoint(): void {
  const from = usePanes.getState().stage?.viewpoint("main");
  if (!from) return;
  void edit("add viewpoint", { eye: from.eye.toArray(), target: from.target.toArray() }).then(
    (made) => notify(made.sentence),
    () => undefined,
  );
}

/** From viewpoint to viewpoint, each for some seconds. */
function Walk() {
  const objects = useShow((state) => state.objects);
  const viewpoints = things(objects, "viewpoint");
  const [seconds, setSeconds] = useState("4");
  const [at, setAt] = useState<number | null>(null);
  const here = useRef(0);
  const keys = viewpoints.map((one) => one.id).join(" ");
  useEffect(() => {
    if (at === null) return undefined;
    const ids = keys ? keys.split(" ") : [];
    const place = thing(useShow.getState().objects, ids[at % Math.max(ids.length, 1)], "viewpoint");
    if (place && here.current !== at + 1) {
      here.current = at + 1;
      lookFrom("main", place.body.name, place.body.eye as [number, number, number], place.body.target as [number, number, number]);
    }
    const timer = window.setTimeout(() => setAt((now) => (now === null ? null : now + 1)), Number(seconds) * 1000);
    return () => window.clearTimeout(timer);
  }, [at, keys, seconds]);
  const stop = () => {
    here.current = 0;
    setAt(null);
  };
  return (
    <Section title="Viewpoints">
      <Action mb="8px" onClick={keepViewpoint}>Name where I look from</Action>
      {viewpoints.length > 1 && <Choice label="Each for" value={seconds} options={["2", "4", "8", "15"].map((value) => ({ value, label: `${value} s` }))} onChange={setSeconds} />}
      {viewpoints.length > 1 && <Action onClick={() => (at === null ? setAt(0) : stop())}>{at === null ? `Walk along ${viewpoints.length} viewpoints` : "Stop here"}</Action>}
    </Section>
  );
}
