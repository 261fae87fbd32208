import { Box, chakra, Flex } from "@chakra-ui/react";
import { Action, Empty } from "../../kit/controls";
import { things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { refused } from "../../show/messages";
import { useLink } from "../../show/connection";
import { select, useSelection } from "../../show/selection";
import { usePatchedUniverses } from "../../show/slots";
import { mappingOf, range, type Sender, spans, type Way } from "./mapping";

const ROW = 24;
const SENDER = 42;
const WAY = 42;
/** Where the columns end and begin, in hundredths of the width. */
const EDGES = { senders: 30, wayFrom: 38, wayTo: 66, universes: 74 };
const STATES: Record<string, { colour: string; text: string }> = {
  live: { colour: "verdigris", text: "" },
  silent: { colour: "dim", text: "nothing heard" },
  silenced: { colour: "dim", text: "silenced" },
  wrong: { colour: "rose", text: "cannot be heard" },
};

/** Sources on the left, connections between, universes of the show on the right, and what flows. */
export function Mapping({ onUniverse }: { onUniverse: (universe: number) => void }) {
  const signal = useLink((state) => state.signal);
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const patched = usePatchedUniverses();
  const map = mappingOf(signal, things(objects, "connection"), patched);
  const height = Math.max(map.universes.length * ROW, map.ways.length * WAY, map.senders.length * SENDER, 60) + 8;
  // Columns with room left stand in the middle of the height.
  const start = (count: number, size: number) => Math.max((height - count * size) / 2, 0);
  const senderAt = (i: number) => start(map.senders.length, SENDER) + i * SENDER + SENDER / 2;
  const wayAt = (i: number) => start(map.ways.length, WAY) + i * WAY + WAY / 2;
  const universeAt = (i: number) => start(map.universes.length, ROW) + i * ROW + ROW / 2;
  const wayOf = new Map(map.ways.map((one, i) => [one.id, i]));
  const universeOf = new Map(map.universes.map((one, i) => [one, i]));
  return (
    <Box overflow="auto" flex="1" minHeight="0" p="6px 14px" aria-label="What is heard, and where it lands" role="region" tabIndex={0}>
      <Box position="relative" height={`${height}px`} minWidth="560px">
        <chakra.svg position="absolute" inset="0" width="100%" height="100%" viewBox={`0 0 100 ${height}`} preserveAspectRatio="none" fill="none" aria-hidden css={{ "& path": { vectorEffect: "non-scaling-stroke" } }}>
          {map.senders.flatMap((sender, i) =>
            [...sender.heard.keys()].map((way) => {
              const to = wayOf.get(way);
              return to === undefined ? null : <Line key={`${sender.key} ${way}`} from={[EDGES.senders, senderAt(i)]} to={[EDGES.wayFrom, wayAt(to)]} live={!sender.preview} />;
            }),
          )}
          {map.lands.map(({ way, universe, live }) => {
            const from = wayOf.get(way);
            const to = universeOf.get(universe);
            return from === undefined || to === undefined ? null : <Line key={`${way} ${universe}`} from={[EDGES.wayTo, wayAt(from)]} to={[EDGES.universes, universeAt(to)]} live={live} />;
          })}
        </chakra.svg>
        <Column left={0} right={100 - EDGES.senders} top={start(map.senders.length, SENDER)} label="Sources">
          {map.senders.map((one) => <SenderBox key={one.key} sender={one} />)}
          {!map.senders.length && <Box color="dim" fontSize="12px" pt="14px">No source is heard. Start a console, or ask the doctor.</Box>}
        </Column>
        <Column left={EDGES.wayFrom} right={100 - EDGES.wayTo} top={start(map.ways.length, WAY)} label="Connections">
          {map.ways.map((one) => <WayBox key={one.id} way={one} chosen={selection.includes(one.id)} />)}
        </Column>
        <Column left={EDGES.universes} right={0} top={start(map.universes.length, ROW)} label="Universes of the show">
          {map.universes.map((universe) => {
            const now = signal?.universes.find((one) => one.universe === universe);
            const rate = Math.max(0, ...(now?.sources.map((one) => one.rate_hz) ?? []));
            const tone = now?.state === "live" ? "verdigris" : now?.state === "held" ? "ember" : "faint";
            const said = now?.state === "live" ? `${rate.toFixed(0)}/s` : now?.state === "held" ? "held" : patched.includes(universe) ? "silent" : "";
            return (
              <chakra.button
                key={universe} type="button" display="flex" alignItems="center" gap="8px" height={`${ROW - 2}px`} mb="2px" width="100%" px="8px" bg="ink0" border="1px solid" borderColor="line" borderRadius="3px" cursor="pointer" fontSize="11.5px" _hover={{ borderColor: "brass" }}
                title={`Universe ${universe}: ${now?.lit_slots ?? 0} slots lit. See its levels`} onClick={() => onUniverse(universe)}
              >
                <Box fontFamily="mono" width="40px" textAlign="right" color="text">{universe}</Box>
                <Box flex="1" height="6px" bg="ink2"><Box height="100%" bg={now?.state === "held" ? "ember" : "brassDeep"} width={`${((now?.lit_slots ?? 0) / 512) * 100}%`} /></Box>
                <Box color={tone} fontFamily="mono" fontSize="11px" width="50px" textAlign="right">{said}</Box>
              </chakra.button>
            );
          })}
        </Column>
      </Box>
      {(signal?.untold ?? 0) > 0 && <Box color="ember" fontSize="12px">And {signal?.untold} universes more that nobody has patched.</Box>}
      {!things(objects, "connection").length && (
        <Empty>
          <Box>This show keeps no connection yet: what is sent to this machine's own address by sACN is heard as it comes. A connection says on which interface a console is heard, by which protocol, and where its universes land.</Box>
          <Action onClick={() => void edit("add connection", {}, { select: true }).catch((wrong: unknown) => refused(wrong))}>Connect a console</Action>
        </Empty>
      )}
    </Box>
  );
}

function Column({ left, right, top, label, children }: { left: number; right: number; top: number; label: string; children: React.ReactNode }) {
  return (
    <Box position="absolute" left={`${left}%`} right={`${right}%`} top={`${top}px`} role="group" aria-label={label}>
      {children}
    </Box>
  );
}

function Line({ from: [x0, y0], to: [x1, y1], live }: { from: [number, number]; to: [number, number]; live: boolean }) {
  const middle = (x0 + x1) / 2;
  return <chakra.path d={`M${x0} ${y0}C${middle} ${y0} ${middle} ${y1} ${x1} ${y1}`} stroke={live ? "verdigris" : "line"} strokeWidth={live ? "1.6" : "1"} strokeDasharray={live ? undefined : "3 4"} />;
}

function SenderBox({ sender }: { sender: Sender }) {
  const lost = sender.heard.get("") ?? [];
  return (
    <Box data-source={sender.name} height={`${SENDER - 5}px`} mb="5px" px="10px" py="2px" bg="ink0" border="1px solid" borderColor={lost.length ? "ember" : "line"} borderRadius="3px" fontSize="11.5px" lineHeight={1.35} overflow="hidden">
      <Flex gap="8px">
        <Box color="text" fontWeight={600} truncate>{sender.name}</Box>
        <Box flex="1" />
        <Box fontFamily="mono" color={sender.rate > 0 ? "verdigris" : "faint"}>{sender.rate.toFixed(0)}/s</Box>
      </Flex>
      <Box color="dim" truncate title={`${sender.address}, priority ${sender.priority}`}>
        {sender.protocol} {spans([...sender.heard.values()].flat())}
        {sender.offers.length > 0 && <Box as="span" color="ember">{sender.heard.size ? " of " : "says it sends "}{sender.offers.map(([first, last]) => (first === last ? `${first}` : `${first} to ${last}`)).join(", ")}{sender.heard.size ? " that it sends" : ", not heard"}</Box>}
        {sender.preview ? " · preview" : ""}
        {lost.length ? <Box as="span" color="ember"> · {sender.preview ? "not shown" : `${spans(lost)} lands nowhere`}</Box> : ` · ${sender.address}${sender.priority ? ` · priority ${sender.priority}` : ""}`}
      </Box>
    </Box>
  );
}

function WayBox({ way, chosen }: { way: Way; chosen: boolean }) {
  const state = STATES[way.now?.state ?? "silent"] ?? { colour: "dim", text: "" };
  return (
    <chakra.button
      type="button" display="block" textAlign="left" width="100%" height={`${WAY - 5}px`} mb="5px" px="10px" py="2px" bg={chosen ? "verdigrisDeep" : "ink3"} border="1px solid" borderColor={chosen ? "verdigris" : way.now?.state === "wrong" ? "rose" : "line"} borderRadius="3px" fontSize="11.5px" lineHeight={1.35} overflow="hidden" cursor={way.body ? "pointer" : "default"}
      aria-pressed={chosen} onClick={() => (way.body ? select([way.id]) : undefined)}
    >
      <Flex gap="8px">
        <Box color="text" fontWeight={600} truncate>{way.name}</Box>
        <Box flex="1" />
        <Box color={state.colour} whiteSpace="nowrap">{state.text || `${way.now?.universes ?? 0} live`}</Box>
      </Flex>
      <Box color="dim" truncate title={way.now?.said}>
        {way.now?.protocol ?? way.body?.protocol} · {way.now?.interface} {way.now?.address} · {way.body ? range(way.body) : "all universes"}
      </Box>
    </chakra.button>
  );
}
