import { Box, Flex } from "@chakra-ui/react";
import { Action, Choice, Field, Section, Segments, Sign } from "../../kit/controls";
import { settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { refused } from "../../show/messages";
import { useLink } from "../../show/connection";
import { select, useSelection } from "../../show/selection";
import type { ConnectionOut, EditArgs, InterfaceOut, Thing } from "../../show/types";
import { range } from "./mapping";

const quietly = (work: Promise<unknown>): void => void work.catch((wrong: unknown) => refused(wrong));

/** The connections that the show keeps: listened to or silenced, and the selected one with what it is made of. */
export function Connections() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const signal = useLink((state) => state.signal);
  const { only_connection } = settings(objects);
  const all = things(objects, "connection");
  const only = all.some((one) => one.id === only_connection) ? only_connection : null;
  const chosen = all.find((one) => selection.length === 1 && one.id === selection[0]);
  return (
    <Section title="Connections">
      <Box role="list" aria-label="Connections of the show">
        {all.map((one) => (
          <Line key={one.id} one={one} now={signal?.connections.find((each) => each.id === one.id)} only={only === one.id} chosen={chosen === one} />
        ))}
      </Box>
      {chosen && <Form key={chosen.id} one={chosen} interfaces={signal?.interfaces ?? []} now={signal?.connections.find((each) => each.id === chosen.id)} />}
      <Action width="100%" mt="4px" onClick={() => quietly(edit("add connection", {}, { select: true }))}>
        Add a connection
      </Action>
      <Box mt="6px" color="dim" fontSize="12px">
        One way: levels come in, none go out. By Art-Net it is answered who is here.
      </Box>
    </Section>
  );
}

function Line({ one, now, only, chosen }: { one: Thing<"connection">; now: ConnectionOut | undefined; only: boolean; chosen: boolean }) {
  const { body } = one;
  return (
    <Box role="listitem" mb="6px" data-connection={body.name}>
      <Flex align="center" gap="6px">
        <Action look={chosen ? "on" : "quiet"} height="24px" flex="1" minWidth="0" justifyContent="flex-start" textAlign="left" title={`${body.protocol}, ${range(body)}`} aria-label={`Change ${body.name}`} onClick={() => select(chosen ? [] : [one.id])}>
          {body.name}
        </Action>
        <Action height="24px" px="7px" fontSize="11.5px" look={body.listen ? "on" : "plain"} aria-pressed={body.listen} aria-label={`Listen to ${body.name}`} title="Whether it is heard; what it last said is held" onClick={() => quietly(edit("set connection", { id: one.id, listen: !body.listen }))}>
          Listen
        </Action>
        <Action height="24px" px="7px" fontSize="11.5px" look={only ? "on" : "plain"} aria-pressed={only} aria-label={`Only this: ${body.name}`} title="Hear this one alone, for as long as this is on" onClick={() => quietly(edit("hear only", { id: only ? null : one.id }))}>
          Only this
        </Action>
      </Flex>
      {now?.said && <Sign tone={now.state === "wrong" ? "wrong" : "attention"}>{now.said}</Sign>}
    </Box>
  );
}

type Args = Omit<EditArgs["set connection"], "id">;

function Form({ one, interfaces, now }: { one: Thing<"connection">; interfaces: InterfaceOut[]; now: ConnectionOut | undefined }) {
  const { body } = one;
  const set = (args: Args) => edit("set connection", { id: one.id, ...args }, { quiet: true });
  const here = interfaces.find((each) => each.name === body.interface && (each.loopback || each.address === body.address)) ?? interfaces.find((each) => each.name === body.interface);
  const options = interfaces.map((each) => ({ value: `${each.name} ${each.address}`, label: `${each.name} · ${each.address}${each.up ? "" : " · no link"}${each.loopback ? " · this machine" : ""}` }));
  if (!here) options.unshift({ value: "", label: `${body.interface} · ${body.address} · gone` });
  return (
    <Box borderLeft="2px solid" borderColor="verdigris" pl="10px" mb="8px" role="group" aria-label={`What ${body.name} is`}>
      <Field label="Name" numeric={false} value={body.name} onCommit={(name) => set({ name })} />
      <Segments
        name="Protocol" value={body.protocol}
        options={[{ value: "sACN", label: "sACN", says: "ANSI E1.31: universes 1 to 63999" }, { value: "Art-Net", label: "Art-Net", says: "Art-Net 4: port-addresses 0 to 32767; 0 lands on universe 1 unless mapped" }]}
        onChange={(protocol) => quietly(set({ protocol }))}
      />
      <Choice
        label="Interface" value={here ? `${here.name} ${here.address}` : ""} options={options}
        onChange={(text) => {
          const [name, address] = text.split(" ");
          if (name && address) quietly(set({ interface: name, address: name === body.interface && here?.loopback ? body.address : address }));
        }}
      />
      {now?.nearest && (
        <Action height="24px" width="100%" mb="6px" onClick={() => quietly(set({ interface: now.nearest?.name, address: now.nearest?.address }))}>
          Take {now.nearest.name} ({now.nearest.address}) instead
        </Action>
      )}
      <Field label="Universes" numeric={false} value={body.first === body.last ? `${body.first}` : `${body.first} to ${body.last}`} hint="231 to 240" onCommit={(universes) => set({ universes })} />
      <Field label="Land on" numeric={false} value={`${body.lands}`} hint="1" onCommit={(lands) => set({ lands })} />
      <Flex gap="6px" mt="2px">
        <Action flex="1" height="24px" fontSize="11.5px" look={body.multicast ? "on" : "plain"} aria-pressed={body.multicast} title={body.protocol === "sACN" ? "Join the multicast groups of its universes; what is sent to this machine alone is heard in any case" : "Hear broadcasts; what is sent to this machine alone is heard in any case"} onClick={() => quietly(set({ multicast: !body.multicast }))}>
          {body.protocol === "sACN" ? "Multicast" : "Broadcast"}
        </Action>
        {body.protocol === "sACN" && (
          <Action flex="1" height="24px" fontSize="11.5px" look={body.preview ? "on" : "plain"} aria-pressed={body.preview} title="Show also data that its console marks as preview" onClick={() => quietly(set({ preview: !body.preview }))}>
            Preview data
          </Action>
        )}
        <Action flex="1" height="24px" fontSize="11.5px" onClick={() => quietly(edit("remove", { ids: [one.id] }))}>
          Remove
        </Action>
      </Flex>
    </Box>
  );
}
