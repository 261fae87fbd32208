import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Table } from "../../kit/Table";
import { Action, BenchHead, Choice, Progress, Segments, Sign } from "../../kit/controls";
import { checkLine, seeConsole, useConsoles } from "../../show/consoles";
import { at, things, useShow } from "../../show/document";
import { many } from "../../show/format";
import { select, useSelection } from "../../show/selection";
import type { CheckReport } from "../../show/types";

type Step = CheckReport["steps"][number];
type WayOf = CheckReport["way"];
const WAYS: { value: WayOf; label: string; says: string }[] = [
  { value: "hand", label: "By hand", says: "Somebody at the console does what is asked for, fixture by fixture" },
  { value: "identify", label: "By identify", says: "The console shows each fixture at full in turn: whoever lights up has answered" },
  { value: "send", label: "From here", says: "Values are handed over to the console, and have to come back as levels" },
];
const ORDER: Record<Step["state"], number> = { silent: 0, waits: 1, skipped: 2, answered: 3 };
const WORDS: Record<Step["state"], string> = { answered: "✓ answered", silent: "✕ did not answer", skipped: "– skipped", waits: "not tried" };

/** The line, fixture by fixture: what is expected, what comes, and what did not answer. */
export function Check() {
  const check = useConsoles((state) => state.check);
  const note = check?.steps.length ? `${check.answered} answered, ${check.silent} did not, ${check.left} left` : "Intensity, colour and position of each fixture, from console to picture";
  return (
    <>
      <BenchHead title="Check the line" note={note}>
        {!!check?.steps.length && <Action look="quiet" height="22px" onClick={() => window.open(`/api/shows/${at().params.path.show}/check.html`, "_blank")}>Print</Action>}
        <Action look="quiet" height="22px" onClick={() => seeConsole(null)}>Mapping</Action>
      </BenchHead>
      <Flex flex="1" minHeight="0">
        <Box width="330px" flex="none" overflow="auto" p="10px 14px" borderRight="1px solid" borderColor="line">
          {check?.going ? <Going check={check} /> : <Begin said={check?.said ?? ""} over={!!check?.steps.length} silent={check?.silent ?? 0} />}
        </Box>
        <Steps steps={check?.steps ?? []} />
      </Flex>
    </>
  );
}

function Begin({ said, over, silent }: { said: string; over: boolean; silent: number }) {
  const selection = useSelection((state) => state.selection);
  const objects = useShow((state) => state.objects);
  const consoles = (useConsoles((state) => state.report)?.consoles ?? []).filter((one) => one.values_port > 0 && !one.misfits.some((each) => each.stops.includes("values")));
  const [way, setWay] = useState<WayOf>("hand");
  const [to, setTo] = useState("");
  const console = consoles.some((one) => one.key === to) ? to : (consoles[0]?.key ?? "");
  const picked = selection.filter((id) => objects[id]?.kind === "fixture");
  const patched = things(objects, "fixture").filter(({ body }) => body.number !== null && body.address !== null);
  const failed = things(objects, "line check").flatMap(({ body }) => Object.keys(body.failed ?? {})).filter((id) => id in objects);
  const begin = (ids: string[]) => void checkLine({ do: "start", ids, way, console: way === "send" ? console : "" });
  return (
    <>
      {said && <Sign tone="wrong">{said}</Sign>}
      {over && !said && <Sign tone={silent ? "wrong" : "fine"}>{silent ? `${many(silent, "thing")} did not answer: who, and the likely cause, is beside. They stand in Readiness until they are checked again.` : "All that was checked has answered."}</Sign>}
      <Segments name="Who drives the check" value={way} options={WAYS} onChange={setWay} />
      <Box fontSize="12px" color="dim" mb="8px">{WAYS.find((one) => one.value === way)?.says}.</Box>
      {way === "send" && (consoles.length ? <Choice label="Send to" value={console} options={consoles.map((one) => ({ value: one.key, label: one.name }))} onChange={setTo} /> : <Sign tone="attention">No linked console takes values: choose another way, or set its OSC port.</Sign>)}
      <Action width="100%" look="main" mb="6px" disabled={way === "send" && !console} onClick={() => begin(picked)}>
        {picked.length ? `Check ${many(picked.length, "selected fixture")}` : `Check all ${many(patched.length, "fixture")}`}
      </Action>
      {failed.length > 0 && <Action width="100%" disabled={way === "send" && !console} onClick={() => begin(failed)}>Check the {many(failed.length, "fixture")} again that failed</Action>}
    </>
  );
}

function Going({ check }: { check: CheckReport }) {
  const done = check.steps.length - check.left;
  if (!check.left) return <Box role="status" fontSize="13px" color="text">All are through. The doctor listens for why {many(check.silent, "thing")} did not answer.</Box>;
  return (
    <Box role="status" aria-label="The check that goes on">
      {check.way === "identify" ? <Box fontSize="13px" color="text" mb="4px">Start identify on the console: whoever lights up is ticked off. It ends by itself when nobody new has answered for a while.</Box> : (
        <>
          <Box fontSize="15px" fontWeight={600} color="text" mb="4px">{check.expects}</Box>
          <Box fontSize="12px" color="dim" mb="2px">Levels: {check.came || "nothing yet"}</Box>
          {check.picture && <Box fontSize="12px" color="dim" mb="6px">And {check.picture}</Box>}
        </>
      )}
      <Progress label="The line check" share={check.steps.length ? done / check.steps.length : 0} />
      {check.way !== "identify" && (
        <Flex gap="6px" mb="6px">
          <Action flex="1" onClick={() => void checkLine({ do: "answered" })}>It came</Action>
          <Action flex="1" onClick={() => void checkLine({ do: "silent" })}>Nothing came</Action>
          <Action flex="1" onClick={() => void checkLine({ do: "skipped" })}>Skip</Action>
        </Flex>
      )}
      <Action width="100%" onClick={() => void checkLine({ do: "end" })}>End the check</Action>
    </Box>
  );
}

function Steps({ steps }: { steps: Step[] }) {
  const selection = new Set(useSelection((state) => state.selection));
  if (!steps.length) return <Box p="14px" color="dim" fontSize="12.5px">What is expected of each fixture, and what came, is listed here.</Box>;
  const sorted = [...steps].sort((a, b) => ORDER[a.state] - ORDER[b.state] || a.number - b.number);
  return (
    <Flex direction="column" flex="1" minWidth="0">
      <Table
        label="Steps of the check" rows={sorted} rowKey={(row) => `${row.id} ${row.function}`} mark={(row) => (row.state === "silent" ? "ember" : undefined)}
        selected={new Set(sorted.filter((row) => selection.has(row.id)).map((row) => `${row.id} ${row.function}`))}
        onSelect={(keys) => select([...new Set(keys.map((key) => key.slice(0, key.lastIndexOf(" "))))])}
        columns={[
          { title: "No.", numeric: true, cell: (row) => row.number, sort: (row) => row.number },
          { title: "What", cell: (row) => row.function, sort: (row) => row.function },
          { title: "How it went", cell: (row) => WORDS[row.state], sort: (row) => ORDER[row.state] },
          { title: "Likely cause", cell: (row) => row.cause },
          { title: "What came", cell: (row) => row.came },
        ]}
      />
    </Flex>
  );
}
