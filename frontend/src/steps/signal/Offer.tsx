import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Table } from "../../kit/Table";
import { Action, BenchHead, Input, Segments, Sign } from "../../kit/controls";
import { haveTaken, offerRig, seeConsole, useConsoles, type Way } from "../../show/consoles";
import { many } from "../../show/format";
import { select, useSelection } from "../../show/selection";
import type { LinkedConsole, OfferedRig } from "../../show/types";

type Answered = NonNullable<OfferedRig["result"]>;
type Line = Answered["lines"][number];
const WAYS: { way: Way; name: string; says: string }[] = [
  { way: "add", name: "Add", says: "beside what it has" },
  { way: "replace", name: "Replace", says: "in place of what has the same number" },
  { way: "clear", name: "Clear first", says: "in place of everything that it has" },
];
/** The worst first. */
const ORDER = ["refused", "type unknown", "number in use", "no answer", "other mode", "taken"];

/** The rig that a console is offered: what taking it would come to, then what came of it. */
export function Offer({ one, ours }: { one: LinkedConsole; ours?: boolean }) {
  const offer = useConsoles((state) => state.offers[one.key]);
  const [picked, setWay] = useState<Way | null>(ours ? "replace" : null);
  // Where it has all of it already, adding would take nothing.
  const way = picked ?? (!offer?.ways.add?.taken && offer?.ways.replace?.taken ? "replace" : "add");
  const shown = offer?.result ?? offer?.ways[way];
  const answers = !one.misfits.some((each) => each.stops.includes("answers"));
  return (
    <>
      <BenchHead title={`Offer the rig to ${one.name}`} note={offer ? `${many(offer.fixtures, "fixture")}, ${(offer.bytes / 2 ** 20).toFixed(1)} MB` : "It takes nothing before you say so"}>
        <Action look="quiet" height="22px" onClick={() => seeConsole(null)}>Mapping</Action>
      </BenchHead>
      <Flex flex="1" minHeight="0">
        <Box width="330px" flex="none" overflow="auto" p="10px 14px" borderRight="1px solid" borderColor="line">
          {!offer && <What one={one} asked={false} ours={ours} />}
          {offer?.said && <Sign tone="attention">{offer.said}</Sign>}
          {offer && !answers && <Sign tone={one.asked_for ? "fine" : "attention"}>{one.asked_for ? "It has fetched the rig. Once it shares its own, Compare rig shows what arrived." : "It was told of the rig, and has not fetched it yet: take it on the console."}</Sign>}
          {offer && answers && !offer.result && <Ways one={one} offer={offer} way={way} onWay={setWay} />}
          {offer?.result && <Result one={one} result={offer.result} way={offer.way} />}
          {offer && (
            <chakra.details my="8px">
              <chakra.summary fontSize="12px" color="text" cursor="pointer" mb="5px">Ask again, with another part or as the rig is now</chakra.summary>
              <What one={one} asked ours={ours} />
            </chakra.details>
          )}
          {offer?.left_out.map((left) => <Sign key={left.what} tone="attention">Not offered: {left.what}: {left.why}</Sign>)}
        </Box>
        {shown ? <Answers lines={shown.lines} done={!!offer?.result} /> : <Box p="14px" color="dim" fontSize="12.5px">What {one.name} says to each fixture is listed here.</Box>}
      </Flex>
    </>
  );
}

/** Which part of the rig, and what is said with it. */
function What({ one, asked, ours }: { one: LinkedConsole; asked: boolean; ours?: boolean }) {
  const selection = useSelection((state) => state.selection);
  const asking = useConsoles((state) => state.asking);
  const [only, setOnly] = useState<"all" | "shown" | "selected">(ours ? "selected" : "all");
  const [comment, setComment] = useState("");
  const ask = () => void offerRig(one.key, { only: only === "shown" ? "shown" : "all", ids: only === "selected" ? selection : [], comment });
  return (
    <Box as="form" onSubmit={(event) => { event.preventDefault(); ask(); }}>
      <Segments
        name="What is offered" value={only} onChange={setOnly}
        options={[{ value: "all", label: "All" }, { value: "shown", label: "Shown", says: "What is on layers that are shown" }, { value: "selected", label: `Selected (${selection.length})` }]}
      />
      <Input label="Comment" numeric={false} hint="what has changed" value={comment} onChange={setComment} />
      <Action type="submit" width="100%" look={asked ? "plain" : "main"} disabled={asking !== null || (only === "selected" && !selection.length)} mb="8px">
        {asking === "offer" ? "Asking" : asked ? "Ask again with the rig as it is now" : `Ask ${one.name} what it would take`}
      </Action>
    </Box>
  );
}

function Ways({ one, offer, way, onWay }: { one: LinkedConsole; offer: OfferedRig; way: Way; onWay: (way: Way) => void }) {
  const asking = useConsoles((state) => state.asking);
  const chosen = offer.ways[way];
  const effect = ({ gone, replaced }: Answered) => (gone ? `, ${many(gone, "fixture")} of its own ${gone > 1 ? "go" : "goes"}` : replaced ? `, ${many(replaced, "fixture")} of its own replaced` : "");
  return (
    <>
      <Box fontSize="12px" color="dim" mb="4px">{offer.there ? `It has ${many(offer.there, "fixture")} in its patch.` : "Its patch is empty."}</Box>
      {offer.there > 0 && <Segments name="How it is taken" value={way} onChange={onWay} options={WAYS.filter((each) => offer.ways[each.way]).map((each) => ({ value: each.way, label: each.name, says: each.says }))} />}
      {chosen && <Box fontSize="12px" color={chosen.taken < chosen.lines.length ? "ember" : "dim"} mb="6px">{offer.there > 0 && `Taken ${WAYS.find((each) => each.way === way)?.says}: `}{chosen.taken} of {chosen.lines.length}{offer.there > 0 ? "" : " taken"}{effect(chosen)}.</Box>}
      {chosen && (
        <Action width="100%" look="main" disabled={asking !== null || !chosen.taken} onClick={() => void haveTaken(one.key, way)}>
          {offer.asks ? "Ask its person to take" : "Give"} {many(chosen.taken, "fixture")}{effect(chosen)}
        </Action>
      )}
    </>
  );
}

function Result({ one, result, way }: { one: LinkedConsole; result: Answered; way: string | null }) {
  const short = result.lines.length - result.taken;
  const other = result.counts["other mode"] ?? 0;
  return (
    <Box role="status" aria-label="What came of it">
      <Sign tone="fine">{one.name} has taken {many(result.taken, "fixture")}{way === "clear" ? `, in place of ${result.gone}` : ""}.</Sign>
      {other > 0 && <Sign tone="attention">{many(other, "fixture")} in another mode: Compare rig shows what that shifts.</Sign>}
      {short > 0 && <Sign tone="wrong">{many(short, "fixture")} not taken: the reasons are beside.</Sign>}
      {result.missing.length ? result.missing.map((left) => <Sign key={left.what} tone="attention">Not arrived: {left.what}: {left.why}.</Sign>) : <Sign tone="fine">Structures, scenery and focus points went along.</Sign>}
    </Box>
  );
}

function Answers({ lines, done }: { lines: Line[]; done: boolean }) {
  const selection = new Set(useSelection((state) => state.selection));
  const sorted = [...lines].sort((a, b) => ORDER.indexOf(a.answer) - ORDER.indexOf(b.answer) || (a.number ?? 1e9) - (b.number ?? 1e9));
  const key = (line: Line) => line.id ?? `gone ${line.number} ${line.name}`;
  return (
    <Flex direction="column" flex="1" minWidth="0">
      <Table
        label={done ? "What became of each fixture" : "What would become of each fixture"} rows={sorted} rowKey={key} selected={selection}
        onSelect={(keys) => select(keys.filter((one) => !one.startsWith("gone ")))}
        mark={(line) => (line.answer === "taken" ? undefined : "ember")}
        columns={[
          { title: "No.", numeric: true, cell: (line) => line.number ?? "–", sort: (line) => line.number ?? 1e9 },
          { title: "Answer", cell: (line) => `${line.answer === "taken" ? "✓" : line.answer === "other mode" ? "◇" : "✕"} ${line.answer}`, sort: (line) => line.answer },
          { title: "Mode there", cell: (line) => line.mode },
          { title: "Why", cell: (line) => line.reason },
        ]}
      />
    </Flex>
  );
}
