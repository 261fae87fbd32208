import { Box, chakra, Flex } from "@chakra-ui/react";
import { Action } from "../../kit/controls";
import { carryAs, leaveCarried, takeCarried, useCarried, useCarriedDimmers, useCarriedRuns } from "../../show/carrying";
import { address, many } from "../../show/format";
import { usePatchView } from "./view";

const ORDERS = [
  { value: "number", label: "by number" },
  { value: "place", label: "by place" },
  { value: "rail", label: "along the rails" },
  { value: "selection", label: "as selected" },
] as const;

/** Beside the ghost: from where to where, in which order, with which gap, or all on one address. */
export function Carried() {
  const { ids, to, how, said, wrong } = useCarried();
  const runs = useCarriedRuns();
  const dimmers = [...useCarriedDimmers().keys()].sort((a, b) => a - b);
  const plugging = usePatchView((state) => state.view === "dimmers");
  if (!ids.length) return null;
  const first = runs.reduce<(typeof runs)[number] | null>((least, one) => (!least || one.universe < least.universe || (one.universe === least.universe && one.address < least.address) ? one : least), null);
  const last = runs.reduce<(typeof runs)[number] | null>((most, one) => (!most || one.universe > most.universe || (one.universe === most.universe && one.address > most.address) ? one : most), null);
  const plugged = dimmers.length ? `to dimmer${dimmers.length > 1 ? `s ${dimmers[0]} to ${dimmers.at(-1)}` : ` ${dimmers[0]}`}` : "over a dimmer …";
  const where = plugging ? plugged : to && first && last ? `from ${address(first.universe, first.address)} to ${address(last.universe, last.address + last.slots - 1)}` : "over a slot …";
  return (
    <Flex align="center" gap="10px" px="14px" py="4px" height="34px" overflow="hidden" whiteSpace="nowrap" bg="ink3" borderBottom="1px solid" borderColor="brass" fontSize="12px" flex="none" role="group" aria-label="What is carried">
      <Box color="brass" fontWeight={600}>{many(ids.length, "fixture")}</Box>
      <Box fontFamily="mono" fontSize="11.5px">{where}</Box>
      <chakra.select aria-label="Order" value={how.order} bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="24px" fontSize="12px" onChange={(event) => carryAs({ order: event.target.value as (typeof ORDERS)[number]["value"] })}>
        {ORDERS.map((one) => <option key={one.value} value={one.value}>{one.label}</option>)}
      </chakra.select>
      {plugging && (
        <Flex as="label" align="center" gap="4px" color="dim">
          on each
          <chakra.input aria-label="On each dimmer" type="number" min={1} max={100} value={how.onEach} placeholder="all" width="52px" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="24px" px="4px" color="text" onChange={(event) => carryAs({ onEach: event.target.value })} />
        </Flex>
      )}
      {!plugging && <Flex as="label" align="center" gap="4px" color="dim">
        gap
        <chakra.input aria-label="Gap, slots" type="number" min={0} max={511} value={how.gap} width="52px" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="24px" px="4px" color="text" onChange={(event) => carryAs({ gap: event.target.value || "0" })} />
      </Flex>}
      <Action height="24px" px="8px" fontSize="11.5px" look={how.reverse ? "on" : "plain"} aria-pressed={how.reverse} onClick={() => carryAs({ reverse: !how.reverse })}>Reversed</Action>
      {plugging
        ? <Action height="24px" px="8px" fontSize="11.5px" look={how.onEach ? "plain" : "on"} aria-pressed={!how.onEach} title="All of them on this one dimmer" onClick={() => carryAs({ onEach: how.onEach ? "" : "1" })}>All on one</Action>
        : <Action height="24px" px="8px" fontSize="11.5px" look={how.same ? "on" : "plain"} aria-pressed={how.same} title="All of them on one address: driven together" onClick={() => carryAs({ same: !how.same })} aria-label="Same address on purpose">Same address</Action>}
      {!plugging && <Action height="24px" px="8px" fontSize="11.5px" look={how.cut ? "on" : "plain"} aria-pressed={how.cut} title="Else what would be cut by the end of a universe begins on the next" onClick={() => carryAs({ cut: !how.cut })}>May be cut</Action>}
      <Box flex="1" minWidth="0" truncate color={wrong ? "rose" : "ember"} data-part="carried-said" title={[wrong, ...said].filter(Boolean).join(" ")}>
        {wrong || said[0] ? `◇ ${wrong || said[0]}${said.length > 1 ? ` And ${said.length - 1} more.` : ""}` : ""}
      </Box>
      <Action height="24px" width="auto" px="10px" look="main" disabled={!to || !!wrong} onClick={() => void takeCarried()}>Put {many(ids.length, "fixture")} there</Action>
      <Action height="24px" width="auto" look="quiet" onClick={leaveCarried}>Leave</Action>
    </Flex>
  );
}
