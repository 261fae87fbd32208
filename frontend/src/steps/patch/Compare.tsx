import { Box, chakra, Flex } from "@chakra-ui/react";
import { Table } from "../../kit/Table";
import { Action, BenchHead, Sign } from "../../kit/controls";
import { leaveCompared, mapColumn, takeLines, useCompared } from "../../show/compared";
import { seeConsole, useConsoles } from "../../show/consoles";
import { many } from "../../show/format";
import { goTo, select, useSelection } from "../../show/selection";
import type { PatchCompared, TakenOut } from "../../show/types";

type Line = PatchCompared["lines"][number];
const KINDS: Record<string, string> = { missing: "not in the list", extra: "only in the list", type: "other type", mode: "other mode", circuit: "other circuit", dimmer: "other dimmer", address: "other address" };
const WORDS: Record<string, string> = { number: "Number", type: "Type", mode: "Mode", place: "Universe and slot", universe: "Universe", address: "Slot", footprint: "Slots taken", circuit: "Circuit", dimmer: "Dimmer" };

/** What a side says, where it differs in this way. */
function said(side: Line["ours"], kind: string): string {
  if (!side) return "nothing";
  if (kind === "type") return side.type;
  if (kind === "circuit") return side.circuit ? `circuit ${side.circuit}` : "no circuit";
  if (kind === "dimmer") return side.dimmer ? `dimmer ${side.dimmer}` : "no dimmer";
  return [side.mode, side.address ?? "no address"].filter(Boolean).join(", ");
}
const taken = (lines: Line[]): TakenOut[] => lines.flatMap((one) => one.take ?? []);

/** A console's list beside the patch: by cause, then line by line; either side is taken. */
export function Compare() {
  const { found, console } = useCompared();
  const from = useConsoles((state) => state.report?.consoles.find((one) => one.key === console));
  const there = console || found?.scene ? "rig" : "list";
  const selection = new Set(useSelection((state) => state.selection));
  if (!found) return null;
  // What the list has not may be of no concern to it: that is taken by itself only.
  const all = taken(found.lines.filter((one) => one.kind !== "missing"));
  return (
    <>
      <BenchHead title={`Beside ${found.name}`} note={`${many(found.same, "fixture")} the same, ${many(found.lines.length, "difference")}`}>
        {all.length > 0 && <Action height="22px" onClick={() => void takeLines(all)}>Take all of the {there}</Action>}
        <Action look="quiet" height="22px" onClick={leaveCompared}>Put the {there} away</Action>
      </BenchHead>
      <Flex flex="1" minHeight="0">
        <Box width="420px" flex="none" overflow="auto" p="8px 14px" borderRight="1px solid" borderColor="line" role="list" aria-label="Causes">
          {found.columns.length > 0 && <Columns found={found} />}
          {found.missing && <Sign tone="wrong">{found.missing}</Sign>}
          {!found.missing && !found.lines.length && <Sign tone="fine">The {there} and the show are the same.</Sign>}
          {found.causes.map((cause) => {
            const lines = found.lines.filter((one) => cause.numbers.includes(one.number));
            const edits = taken(lines);
            return (
              <Box key={cause.cause + cause.text} role="listitem" mb="8px" data-cause={cause.cause}>
                <Sign tone={cause.cause === "extra" ? "attention" : "wrong"} onClick={() => select(lines.flatMap((one) => one.fixture ?? []))}>{cause.text}</Sign>
                {edits.length > 0 && (
                  <Action height="22px" ml="21px" fontSize="11.5px" onClick={() => void takeLines(edits)}>
                    {cause.cause === "missing" ? `Take the address of ${many(lines.length, "fixture")} away` : `Take the ${there}'s ${many(edits.length, "value")}`}
                  </Action>
                )}
                {from && lines.some((one) => one.fixture) && (
                  <Action height="22px" ml="8px" fontSize="11.5px" title={`Have ${from.name} take these fixtures as they are here: it is asked first`} onClick={() => { select(lines.flatMap((one) => one.fixture ?? [])); seeConsole({ of: "offer", key: from.key, ours: true }); goTo("signal"); }}>
                    Give it ours
                  </Action>
                )}
              </Box>
            );
          })}
          {found.left_out.map((text) => <Sign key={text} tone="attention">Left out: {text}</Sign>)}
        </Box>
        <Flex direction="column" flex="1" minWidth="0">
          <Table
            label="Differences" rows={found.lines} rowKey={(row) => `${row.number} ${row.kind} ${row.fixture}`}
            selected={new Set(found.lines.filter((one) => one.fixture && selection.has(one.fixture)).map((row) => `${row.number} ${row.kind} ${row.fixture}`))}
            onSelect={(keys) => select(found.lines.filter((row) => keys.includes(`${row.number} ${row.kind} ${row.fixture}`)).flatMap((row) => row.fixture ?? []))}
            columns={[
              { title: "No.", numeric: true, cell: (row) => row.number },
              { title: "What", cell: (row) => KINDS[row.kind] ?? row.kind },
              { title: "Here", cell: (row) => said(row.ours, row.kind) },
              { title: `In the ${there}`, cell: (row) => said(row.theirs, row.kind) },
              { title: "", cell: (row) => (row.take ? <Action height="20px" fontSize="11px" aria-label={`Take the ${there}'s side of fixture ${row.number}, ${KINDS[row.kind]}`} onClick={(event) => { event.stopPropagation(); void takeLines(taken([row])); }}>Take</Action> : "") },
            ]}
          />
        </Flex>
      </Flex>
    </>
  );
}

/** Which column says what, as it was understood; it can be said otherwise, and is remembered for such lists. */
function Columns({ found }: { found: PatchCompared }) {
  return (
    <chakra.details mb="8px" open={!!found.missing || undefined}>
      <chakra.summary color="dim" fontSize="12px" cursor="pointer" mb="4px">
        Columns: {Object.entries(found.mapping).map(([field, i]) => `${WORDS[field]} is “${found.columns[i]}”`).join(", ") || "none understood"}
      </chakra.summary>
      {found.fields.map((field) => (
        <Flex key={field} align="center" gap="8px" mb="3px" fontSize="12px">
          <Box width="130px" color="dim">{WORDS[field]}</Box>
          <chakra.select
            aria-label={`Column of ${WORDS[field]}`} value={found.mapping[field] ?? ""} bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="24px" flex="1" minWidth="0"
            onChange={(event) => void mapColumn(field, event.target.value === "" ? null : Number(event.target.value))}
          >
            <option value="">none</option>
            {found.columns.map((column, i) => <option key={i} value={i}>{column || `column ${i + 1}`}{found.sample[0]?.[i] ? `: ${found.sample[0][i]}` : ""}</option>)}
          </chakra.select>
        </Flex>
      ))}
    </chakra.details>
  );
}
