import { Box, chakra, Flex } from "@chakra-ui/react";
import { GripVertical, Plus } from "lucide-react";
import { useState } from "react";
import { Action } from "../kit/controls";
import { addFine, attributeOf, type Channel, type Draft, dropFine, kindOfDoubt, lastSlot, type Mode, moveChannel, top, withMode } from "./draft";
import { openReading } from "./reading";
import { type AttributeOut, changeDraft, choose, chooseMode, setRaw, useShop } from "./state";

export const wordsOf = (attributes: readonly AttributeOut[], name: string): string => attributes.find((one) => one.name === name)?.words ?? name;

function put(what: string, m: number, change: (channels: Channel[]) => Channel[]): Promise<boolean> {
  return changeDraft(what, (draft) => withMode(draft, m, (mode) => ({ ...mode, channels: change(mode.channels) })));
}

/** The attribute that typed words mean: by its words or the standard's name, whole or as they begin. */
function meant(attributes: readonly AttributeOut[], typed: string): AttributeOut | undefined {
  const text = typed.trim().toLowerCase();
  if (!text) return undefined;
  return (
    attributes.find((one) => one.words === text || one.name.toLowerCase() === text) ??
    attributes.find((one) => one.shows && one.words.startsWith(text)) ??
    attributes.find((one) => one.words.startsWith(text) || one.name.toLowerCase().startsWith(text))
  );
}

function newChannel(draft: Draft, attribute: AttributeOut, slot: number): Channel {
  const turns: Record<string, string> = { Pan: "Yoke", PanRotate: "Yoke", Tilt: "Head", TiltRotate: "Head" };
  const parts = useShop.getState().trial?.parts ?? ["Body"];
  const lenses = useShop.getState().trial?.lenses ?? [];
  const own = turns[attribute.name];
  const part = own && parts.includes(own) ? own : lenses.length === 1 && attribute.shows ? (lenses[0] as string) : (parts[0] ?? "Body");
  const wheel = draft.wheels.find((one) => one.name === attribute.wheel);
  const base = { name: "", emitter: null, filter: null, profile: null, master: null, logical: 0, fade_s: 0, start_s: 0, doubt: "", function: "" };
  const chooses = /^(Color[12]|Gobo[12]|Prism1|ColorMacro1)$/.test(attribute.name);
  const ranges =
    wheel && chooses
      ? wheel.slots.map((one, i) => {
          const width = Math.floor(256 / wheel.slots.length);
          const last = i === wheel.slots.length - 1;
          return { ...base, start: i * width, end: last ? 255 : (i + 1) * width - 1, attribute: attribute.name, low: 0, high: 1, slot: i + 1, wheel: wheel.name, name: one.name };
        })
      : [{ ...base, start: 0, end: 255, attribute: attribute.name, low: attribute.low, high: attribute.high, slot: null, wheel: null }];
  const middle = ["Pan", "Tilt"].includes(attribute.name) ? 128 : 0;
  return { part, slots: [slot], ranges, home: middle, highlight: null, dmx_break: 1, key: "" };
}

export function ModeTabs({ draft }: { draft: Draft }) {
  const at = useShop((state) => state.mode);
  const footprints = useShop((state) => state.trial?.footprints);
  const count = (mode: Mode) => new Set(mode.channels.flatMap((one) => one.slots.map((slot) => `${one.dmx_break}.${slot}`))).size;
  const add = async (copy: boolean) => {
    const from = draft.modes[at];
    const mode: Mode = { name: `Mode ${draft.modes.length + 1}`, channels: copy && from ? from.channels : [], relations: copy && from ? from.relations : [], description: "", geometry: from?.geometry ?? "", was: copy && from ? from.was : "" };
    if (await changeDraft(copy ? "Copy a mode" : "Add a mode", (now) => ({ ...now, modes: [...now.modes, mode] }))) chooseMode(draft.modes.length);
  };
  const apart = Object.keys(footprints ?? {}).length > 1;
  return (
    <Flex align="center" gap="4px" px="10px" height="34px" flex="none" borderTop="1px solid" borderBottom="1px solid" borderColor="line">
      <Flex role="tablist" aria-label="Modes" gap="4px">
      {draft.modes.map((mode, i) => (
        <chakra.button
          key={i} type="button" role="tab" aria-selected={i === at} px="10px" height="24px" borderRadius="4px" fontSize="12px" cursor="pointer"
          bg={i === at ? "ink3" : "transparent"} color={i === at ? "text" : "dim"} borderBottom={i === at ? "2px solid {colors.brass}" : "2px solid transparent"} onClick={() => chooseMode(i)}
        >
          {mode.name}{" "}
          <chakra.span fontFamily="mono" fontSize="11px" color="faint">
            {count(mode)}
          </chakra.span>
        </chakra.button>
      ))}
      </Flex>
      <Action look="quiet" height="24px" aria-label="Add a mode" title="Add an empty mode" onClick={() => void add(false)}>
        <Plus size={13} />
      </Action>
      <Action look="quiet" height="24px" onClick={() => void add(true)}>
        Copy this mode
      </Action>
      <Box flex="1" />
      {apart && (
        <Box fontSize="11.5px" color="dim">
          {Object.entries(footprints ?? {}).map(([number, size]) => `${size} slots at address ${number}`).join(", ")}
        </Box>
      )}
      <chakra.input
        aria-label="Name of the mode" value={draft.modes[at]?.name ?? ""} width="120px" height="24px" px="8px" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" fontSize="12px"
        onChange={(event) => {
          const name = event.target.value;
          void changeDraft("Name a mode", (now) => withMode(now, at, (mode) => ({ ...mode, name })));
        }}
      />
      {draft.modes.length > 1 && (
        <Action look="quiet" height="24px" onClick={() => void changeDraft("Remove a mode", (now) => ({ ...now, modes: now.modes.filter((_, i) => i !== at) }))}>
          Remove
        </Action>
      )}
    </Flex>
  );
}

/** The channels of a mode in slot order; each with a slider to try it and what its value means. */
export function ChannelTable({ draft }: { draft: Draft }) {
  const { mode: m, channel: chosen, trial, slots, attributes } = useShop();
  const [typed, setTyped] = useState("");
  const [dragged, setDragged] = useState<number | null>(null);
  const [wrong, setWrong] = useState("");
  const mode = draft.modes[m];
  if (!mode) return null;
  const channels = mode.channels;
  const levels = slots ?? trial?.slots ?? {};
  const raw = (channel: Channel) => channel.slots.reduce((value, slot) => value * 256 + (levels[String(channel.dmx_break)]?.[slot - 1] ?? 0), 0);
  const order = channels.map((_, i) => i).sort((a, b) => (channels[a]?.dmx_break ?? 1) - (channels[b]?.dmx_break ?? 1) || (channels[a]?.slots[0] ?? 0) - (channels[b]?.slots[0] ?? 0));
  const add = async () => {
    const attribute = meant(attributes, typed);
    if (!attribute) {
      setWrong(`“${typed}” is nothing that a lamp does: choose one of the list.`);
      return;
    }
    setWrong("");
    if (await put("Add a channel", m, (now) => [...now, newChannel(draft, attribute, lastSlot(channels, 1) + 1)])) {
      setTyped("");
      choose(channels.length);
    }
  };
  const keys = (event: React.KeyboardEvent, at: number) => {
    const place = order.indexOf(at);
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    const next = order[place + step];
    if (step && event.altKey && next !== undefined) {
      void put("Move a channel", m, (now) => moveChannel(order.map((i) => now[i] as Channel), place, place + step)).then(() => choose(place + step));
    } else if (step && next !== undefined) choose(next);
    else if (event.key === "f") void put("Add a fine byte", m, (now) => addFine(now, at));
    else if (event.key === "F") void put("Take the fine byte away", m, (now) => dropFine(now, at));
    else if (event.key === "Delete") void put("Remove a channel", m, (now) => now.filter((_, i) => i !== at));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Flex direction="column" minHeight="0" flex="1">
      <Box overflow="auto" flex="1" minHeight="0">
        <chakra.table aria-label="Channels" width="100%" fontSize="12.5px" css={{ borderCollapse: "collapse", "& td": { paddingInline: "8px", paddingBlock: "2px", whiteSpace: "nowrap", borderBottom: "1px solid {colors.ink2}" } }}>
          <thead>
            <tr>
              {["order", "slot", "does", "drives", "try", "value", "which is"].map((title, i) => (
                <chakra.th key={title || i} scope="col" position="sticky" top="0" zIndex={1} bg="ink1" fontSize="11px" fontWeight={500} color="faint" px="8px" py="3px" textAlign={i === 1 || i === 5 ? "right" : "left"} boxShadow="inset 0 -1px {colors.line}">
                  {title}
                </chakra.th>
              ))}
            </tr>
          </thead>
          <tbody>
            {order.map((c, place) => {
              const channel = channels[c] as Channel;
              const doing = trial?.mode === m ? trial.doing.filter((one) => one.channel === c) : [];
              const on = c === chosen;
              const doubt = channel.ranges.some((range) => kindOfDoubt(range.doubt) === "open");
              const name = wordsOf(attributes, attributeOf(channel));
              return (
                <chakra.tr
                  key={c} tabIndex={0} aria-selected={on} data-channel={c} bg={on ? "verdigrisDeep" : "transparent"} cursor="pointer" _hover={{ bg: on ? "verdigrisDeep" : "ink2" }}
                  onClick={() => choose(c)} onFocus={() => { if (!on) choose(c); }} onKeyDown={(event) => keys(event, c)}
                  onDragOver={(event) => event.preventDefault()}
                  onDrop={() => {
                    if (dragged === null || dragged === place) return;
                    void put("Move a channel", m, (now) => moveChannel(order.map((i) => now[i] as Channel), dragged, place)).then(() => choose(place));
                    setDragged(null);
                  }}
                >
                  <chakra.td width="18px" draggable color="faint" cursor="grab" onDragStart={() => setDragged(place)} title="Drag to another place">
                    <GripVertical size={12} />
                  </chakra.td>
                  <chakra.td fontFamily="mono" fontSize="12px" textAlign="right" width="72px" color="dim">
                    {channel.dmx_break > 1 ? `${channel.dmx_break}.` : ""}
                    {channel.slots.join("+") || "none"}
                  </chakra.td>
                  <chakra.td color={doubt ? "ember" : "text"} width="170px" maxWidth="200px" overflow="hidden" textOverflow="ellipsis">
                    {name}
                    {doubt ? " ◇" : ""}
                  </chakra.td>
                  <chakra.td color="dim" width="74px" maxWidth="100px" overflow="hidden" textOverflow="ellipsis">{channel.part}</chakra.td>
                  <chakra.td width="150px">
                    {channel.slots.length > 0 && (
                      <chakra.input
                        type="range" aria-label={`Try ${name}`} min={0} max={top(channel)} value={raw(channel)} width="130px" accentColor="{colors.brass}" verticalAlign="middle"
                        onChange={(event) => setRaw(channel.dmx_break, channel.slots, Number(event.target.value))} onKeyDown={(event) => event.stopPropagation()}
                      />
                    )}
                  </chakra.td>
                  <chakra.td fontFamily="mono" fontSize="11.5px" textAlign="right" width="52px" color="dim">{channel.slots.length ? raw(channel) : ""}</chakra.td>
                  <chakra.td data-words maxWidth="180px" overflow="hidden" textOverflow="ellipsis">{trial?.mode === m && !doing.length ? <chakra.span color="faint">not now</chakra.span> : doing.map((one) => one.words).join("; ")}</chakra.td>
                </chakra.tr>
              );
            })}
          </tbody>
        </chakra.table>
        {!channels.length && (
          <Box p="16px" color="dim" fontSize="12.5px">
            <Box mb="8px">No channel yet. Paste the manual’s table, or type what the first one does below.</Box>
            <Action look="main" onClick={() => openReading()}>Read the manual’s table</Action>
          </Box>
        )}
      </Box>
      <Flex as="form" gap="8px" align="center" px="10px" height="38px" flex="none" borderTop="1px solid" borderColor="line" onSubmit={(event) => { event.preventDefault(); void add(); }}>
        <chakra.input
          list="attribute-words" aria-label="What a new channel does" placeholder="A new channel: intensity, pan, gobo …" value={typed} onChange={(event) => setTyped(event.target.value)}
          bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="26px" px="8px" fontSize="12.5px" width="260px"
        />
        <datalist id="attribute-words">
          {attributes.map((one) => (
            <option key={one.name} value={one.words}>
              {one.name}
            </option>
          ))}
        </datalist>
        <Action type="submit">Add a channel</Action>
        {wrong ? (
          <Box role="alert" color="rose" fontSize="11.5px">{wrong}</Box>
        ) : (
          <Box color="faint" fontSize="11.5px" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">
            f fine byte · Shift+f back · Alt+↑↓ move · Delete remove
          </Box>
        )}
      </Flex>
    </Flex>
  );
}
