import { chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, BenchHead } from "../../kit/controls";
import { leaveCompared } from "../../show/compare";
import { things, useShow } from "../../show/document";
import { many } from "../../show/format";
import { leaveAsk, type ReviewView, useReview } from "../../show/review";
import { Book } from "./Book";
import { House, HouseHead } from "./House";
import { Light } from "./Light";
import { LookTiles } from "./LookTiles";
import { Notes } from "./Notes";
import { usePainted } from "./usePainted";
import { Share } from "./Share";
import { useSeats, useViewpoints } from "./useSeats";

const VIEWS: readonly { value: ReviewView; label: string; title: string }[] = [
  { value: "house", label: "House", title: "Seats and viewpoints" },
  { value: "light", label: "Light", title: "Light as numbers" },
  { value: "compare", label: "Compare", title: "Looks to compare" },
  { value: "notes", label: "Notes", title: "Notes of the review" },
  { value: "book", label: "Book", title: "The look book" },
  { value: "share", label: "Guests", title: "Beside others" },
];

export function ReviewBench() {
  const objects = useShow((state) => state.objects);
  const view = useReview((state) => state.view);
  const seats = useSeats();
  const viewpoints = useViewpoints();
  const [words, setWords] = useState("");
  const [open, setOpen] = useState(false);
  usePainted();
  const said = {
    house: `${many(seats.length, "seat")}, ${many(viewpoints.length, "viewpoint")}`,
    light: many(things(objects, "area").length, "area"),
    compare: "the first click is the left one, Shift the right",
    notes: `${things(objects, "note").filter((one) => !one.body.done && one.body.verdict !== "agreed").length} open of ${things(objects, "note").length}`,
    book: "looks from viewpoints, as they are drawn",
    share: "",
  };
  const go = (to: ReviewView) => {
    leaveAsk();
    if (to !== "compare") leaveCompared();
    setWords("");
    useReview.setState({ view: to, ...(to !== view && { place: null, lit: null, sight: to === "house" ? useReview.getState().sight : null }) });
  };
  return (
    <>
      <BenchHead title={VIEWS.find((one) => one.value === view)?.title ?? ""} note={said[view]}>
        {view === "house" && <HouseHead words={words} setWords={setWords} />}
        {view === "notes" && (
          <>
            <chakra.input type="search" aria-label="Find a note" placeholder="#tag, who, words" value={words} onChange={(event) => setWords(event.target.value)} width="130px" height="24px" px="8px" fontSize="12px" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" />
            <Action look={open ? "on" : "quiet"} height="22px" aria-pressed={open} onClick={() => setOpen(!open)}>Open ones only</Action>
          </>
        )}
        <Flex role="group" aria-label="What is reviewed" border="1px solid" borderColor="line" borderRadius="5px" overflow="hidden">
          {VIEWS.map((one) => (
            <chakra.button key={one.value} type="button" aria-pressed={one.value === view} px="7px" height="24px" fontSize="12px" cursor="pointer" bg={one.value === view ? "brassDeep" : "transparent"} color={one.value === view ? "onBrassDeep" : "dim"} onClick={() => go(one.value)}>
              {one.label}
            </chakra.button>
          ))}
        </Flex>
      </BenchHead>
      {view === "house" && <House words={words} />}
      {view === "light" && <Light />}
      {view === "compare" && <LookTiles />}
      {view === "book" && <Book />}
      {view === "share" && <Share />}
      {view === "notes" && <Notes words={words} open={open} />}
    </>
  );
}
