import { Box, chakra, Flex } from "@chakra-ui/react";
import { type ReactNode, useEffect } from "react";
import { Table } from "../../kit/Table";
import { Action, BenchHead, Level, Sign } from "../../kit/controls";
import { seeConsole } from "../../show/consoles";
import { many } from "../../show/format";
import { press, readPatch, useSimulated } from "../../show/simulated";
import type { ConsoleState, SimulatedConsole } from "../../show/types";
import { SimulatedSide } from "./SimulatedSide";
import { Transport } from "./Touch";

/** A simulated console's own page: what it plays, what it has patched and sends, what is in its editor. */
export function Simulated({ one }: { one: SimulatedConsole }) {
  const { state } = one;
  if (!state) return <BenchHead title={one.name} note="It is starting" />;
  const out = [state.sacn && `sACN ${state.sacn}`, state.artnet && `Art-Net ${state.artnet}`].filter(Boolean).join(", ") || "nothing is sent";
  const also = Object.entries(state.others).map(([what, count]) => `${count} ${what}`).join(", ");
  return (
    <>
      <BenchHead title={one.name} note={<Box as="span" truncate title={also && `Came along: ${also}`}>{many(state.fixtures, "fixture")}{also && ", and what came along"} · {out} · priority {state.priority}</Box>}>
        {state.faults.dead && <Box color="rose">✕ dead</Box>}
        <Action look="quiet" height="22px" onClick={() => seeConsole(null)}>Mapping</Action>
      </BenchHead>
      {one.problem && <Box px="14px"><Sign tone="wrong">{one.problem}</Sign></Box>}
      <Flex flex="1" minHeight="0">
        <Cues id={one.key} state={state} />
        <Patched id={one.key} state={state} />
        <SimulatedSide id={one.key} state={state} />
      </Flex>
    </>
  );
}

const Side = ({ width, children }: { width: string; children: ReactNode }) => <Box width={width} flex="none" overflow="auto" p="8px 12px" borderRight="1px solid" borderColor="line">{children}</Box>;

function Cues({ id, state }: { id: string; state: ConsoleState }) {
  return (
    <Side width="270px">
      <Transport id={id} playing={state.playing} />
      <Level label="Grand master" value={state.master} onMove={(level) => void press(id, { do: "master", level })} onChange={(level) => void press(id, { do: "master", level })} />
      {state.masters.map((one) => <Level key={one.name} label={`Sub ${one.name}`} value={one.level} onMove={(level) => void press(id, { do: "master", name: one.name, level })} onChange={(level) => void press(id, { do: "master", name: one.name, level })} />)}
      {!state.cues.length && <Action width="100%" mb="6px" disabled={!state.fixtures} onClick={() => void press(id, { do: "make cues" })}>Make a cue list for this rig</Action>}
      <Box role="list" aria-label="Cue list">
        {state.cues.map((cue) => (
          <Box key={cue.number} role="listitem">
            <chakra.button
              type="button" width="100%" textAlign="left" p="2px 6px" fontSize="12px" cursor="pointer" borderRadius="4px" bg={cue.number === state.cue ? "brassDeep" : "transparent"} color={cue.number === state.cue ? "onBrassDeep" : "text"}
              aria-current={cue.number === state.cue || undefined} onClick={() => void press(id, { do: "next", number: cue.number })} title={`Fade ${cue.fade_s} s${cue.delay_s ? `, delay ${cue.delay_s} s` : ""}${cue.follow_s === null ? "" : `, the next follows after ${cue.follow_s} s`}`}
            >
              <Flex gap="8px"><Box as="span" fontFamily="mono" width="26px" textAlign="right" flex="none">{cue.number}</Box><Box as="span" truncate flex="1">{cue.name}</Box><Box as="span" fontFamily="mono" fontSize="11px" flex="none">{cue.fade_s} s{cue.follow_s === null ? "" : " ▸"}</Box></Flex>
            </chakra.button>
          </Box>
        ))}
      </Box>
    </Side>
  );
}

/** Its patch; what is taken here is selected on the console. */
function Patched({ id, state }: { id: string; state: ConsoleState }) {
  const patch = useSimulated((now) => now.patch);
  const levels = useSimulated((now) => now.levels[id]);
  const { patched } = state;
  useEffect(() => {
    if (patched) void readPatch(id, patched);
  }, [id, patched]);
  const rows = patch?.key === id ? patch.rows.map((row, at) => ({ ...row, at })) : [];
  if (!state.fixtures) return <Box flex="1" p="14px" color="dim" fontSize="12.5px">It knows no fixture yet: offer it the rig, under Consoles in the card.</Box>;
  const key = (row: { at: number }) => String(row.at);
  return (
    <Flex direction="column" flex="1" minWidth="0" borderRight="1px solid" borderColor="line">
      <Table
        label={`Patch of ${state.name}`} rows={rows} rowKey={key}
        selected={new Set(rows.filter((row) => row.number !== null && state.selected.includes(row.number)).map(key))}
        onSelect={(keys, add) => {
          const taken = rows.filter((row) => keys.includes(key(row))).flatMap((row) => row.number ?? []);
          const before = add ? state.selected : [];
          const both = taken.every((one) => before.includes(one)) ? before.filter((one) => !taken.includes(one)) : [...new Set([...before, ...taken])];
          void press(id, { do: "select", numbers: both });
        }}
        columns={[
          { title: "No.", numeric: true, cell: (row) => row.number ?? "–", sort: (row) => row.number ?? 1e9 },
          { title: "Level", cell: (row) => <LevelBar level={levels?.[row.at] ?? 0} /> },
          { title: "Type", cell: (row) => row.type, sort: (row) => row.type },
          { title: "Mode", cell: (row) => row.mode },
          { title: "At", cell: (row) => row.places.join(", ") },
        ]}
      />
    </Flex>
  );
}

function LevelBar({ level }: { level: number }) {
  return (
    <Flex align="center" gap="6px" width="92px">
      <Box flex="1" height="4px" bg="line"><Box height="100%" width={`${level * 100}%`} bg="brass" /></Box>
      <Box as="span" fontFamily="mono" fontSize="11px" width="36px" textAlign="right">{Math.round(level * 100)} %</Box>
    </Flex>
  );
}
