import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Field, Input, Section, Sign } from "../../kit/controls";
import { compareRig, seeConsole, setBeside, takePalettes, useConsoles } from "../../show/consoles";
import { useLink } from "../../show/connection";
import { settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { refused } from "../../show/messages";
import type { LinkedConsole, Thing } from "../../show/types";
import { useForm } from "../../show/useForm";

const quietly = (work: Promise<unknown>): void => void work.catch((wrong: unknown) => refused(wrong));

/** Consoles that rigs and values go to and come from. */
export function Consoles() {
  const report = useConsoles((state) => state.report);
  const objects = useShow((state) => state.objects);
  const kept = things(objects, "console");
  const [chosen, choose] = useState<string | null>(null);
  const [adding, setAdding] = useState(false);
  const all = report?.consoles ?? [];
  const one = all.find((each) => each.key === chosen) ?? (all.length === 1 ? all[0] : undefined);
  return (
    <Section title="Consoles">
      {report?.problems.map((text) => <Sign key={text} tone="wrong">{text}</Sign>)}
      <Box role="list" aria-label="Linked consoles">
        {all.map((each) => <Line key={each.key} one={each} open={each === one} onOpen={() => choose(each === one ? "" : each.key)} body={kept.find((thing) => thing.id === each.key)} />)}
      </Box>
      {!all.length && <Box color="dim" fontSize="12px" mb="6px">Link a console to give it the rig, or start a simulated one below.</Box>}
      {adding ? <Linking onDone={() => setAdding(false)} /> : (
        <Flex gap="6px" mb="6px">
          <Action flex="1" onClick={() => setAdding(true)}>Link a console</Action>
          <Action flex="1" onClick={() => seeConsole({ of: "check" })}>Check the line</Action>
        </Flex>
      )}
      <Looking />
      {report?.found.map((found) => (
        <Flex key={found.key} align="center" gap="6px" fontSize="12px" mb="4px" data-found={found.name}>
          <Box flex="1" minWidth="0" truncate>{found.name}, {found.host}</Box>
          <Action height="22px" aria-label={`Link ${found.name}`} onClick={() => quietly(edit("link console", { name: found.name, host: found.host, port: String(found.port), station: found.key }))}>Link</Action>
        </Flex>
      ))}
    </Section>
  );
}

/** How a console is linked, in a word and by a shape. */
function Standing({ one }: { one: LinkedConsole }) {
  if (!one.linked) return <Sign tone="attention">{one.said || "It is being looked for."}</Sign>;
  const speaks = `Linked: ${one.provider || one.station}, MVR ${one.version}.`;
  return (
    <>
      <Sign tone={one.misfits.some((each) => each.stops.includes("offer")) ? "wrong" : "fine"}>{speaks}</Sign>
      {one.misfits.map((each) => (
        <Sign key={each.what} tone={each.stops.includes("offer") ? "wrong" : "attention"}>
          {each.what} <Box as="span" color="dim">{each.still}</Box>
        </Sign>
      ))}
    </>
  );
}

function Line({ one, open, onOpen, body }: { one: LinkedConsole; open: boolean; onOpen: () => void; body: Thing<"console"> | undefined }) {
  const asking = useConsoles((state) => state.asking);
  const stops = new Set(one.misfits.flatMap((each) => each.stops));
  const able = one.linked && !stops.has("offer");
  const set = (how: { hand_over?: boolean; outline?: boolean }) => (body ? quietly(edit("set console", { id: one.key, ...how })) : void setBeside(one.key, how));
  return (
    <Box role="listitem" mb="8px" data-console={one.name}>
      <Action look={open ? "on" : "quiet"} height="24px" width="100%" justifyContent="flex-start" textAlign="left" aria-expanded={open} onClick={onOpen}>
        {one.linked ? "●" : "◇"} {one.name}
      </Action>
      <Standing one={one} />
      {open && (
        <Box borderLeft="2px solid" borderColor="verdigris" pl="10px" mt="4px" role="group" aria-label={`What goes to and from ${one.name}`}>
          <Flex gap="6px" mb="6px">
            <Action flex="1" disabled={!able || asking !== null} title="Give it the patch with types, numbers and places: it says what it would take first" onClick={() => seeConsole({ of: "offer", key: one.key })}>Offer rig</Action>
            <Action flex="1" disabled={!able || !one.rigs.length || asking !== null} title={one.rigs.length ? `Fetch “${one.rigs.at(-1)?.comment || one.rigs.at(-1)?.name}”, and see how it differs` : "It has told of no rig yet: have it share its rig"} onClick={() => void compareRig(one)}>
              {asking === "compare" ? "Fetching" : "Compare rig"}
            </Action>
          </Flex>
          <Values one={one} stopped={stops.has("values")} onSet={set} />
          {body && <Kept one={body} />}
        </Box>
      )}
    </Box>
  );
}

/** Values there and back; what goes one way only is said where the switch would be. */
function Values({ one, stopped, onSet }: { one: LinkedConsole; stopped: boolean; onSet: (how: { hand_over?: boolean; outline?: boolean }) => void }) {
  if (!one.values_port || stopped) {
    return <Box color="dim" fontSize="12px" mb="6px">One way: {stopped ? "it takes no values" : "no port for values is set"}, so what is aimed here stays here.</Box>;
  }
  return (
    <>
      <Action width="100%" mb="6px" look={one.hand_over ? "on" : "plain"} aria-pressed={one.hand_over} title="What is aimed, coloured or shaped here appears in its editor as physical values, by OSC" onClick={() => onSet({ hand_over: !one.hand_over })}>
        Hand over values{one.hand_over ? `: ${one.values_sent} sent` : ""}
      </Action>
      {one.misfits.some((each) => each.stops.includes("selection")) ? (
        <Box color="dim" fontSize="12px" mb="6px">One way: it does not say what is selected on it.</Box>
      ) : (
        <Action width="100%" mb="6px" look={one.outline ? "on" : "plain"} aria-pressed={one.outline} title="What is selected on the console is outlined on the stage, under its name" onClick={() => onSet({ outline: !one.outline })}>
          Outline what it selects{one.selected ? `: ${one.selected}` : ""}
        </Action>
      )}
      {one.palettes.length > 0 && (
        <Action width="100%" mb="6px" title={one.palettes.map((each) => each.name).join(", ")} onClick={() => void takePalettes(one.key)}>
          Take its {many(one.palettes.length, "palette")}
        </Action>
      )}
    </>
  );
}

/** What the show keeps of a console. */
function Kept({ one }: { one: Thing<"console"> }) {
  const { body } = one;
  const set = (args: { name?: string; host?: string; port?: string; values_port?: string }) => edit("set console", { id: one.id, ...args }, { quiet: true });
  return (
    <>
      <Field label="Name" numeric={false} value={body.name} onCommit={(name) => set({ name })} />
      <Field label="Address" numeric={false} value={body.host ?? ""} onCommit={(host) => set({ host })} />
      <Field label="MVR-xchange port" value={body.port ? String(body.port) : ""} hint="none" onCommit={(port) => set({ port })} />
      <Field label="OSC port" value={body.values_port ? String(body.values_port) : ""} hint="none" onCommit={(values_port) => set({ values_port })} />
      <Action width="100%" onClick={() => quietly(edit("remove", { ids: [one.id] }))}>Unlink {body.name}</Action>
    </>
  );
}

/** A console at an address. */
function Linking({ onDone }: { onDone: () => void }) {
  const form = useForm({ name: "", host: "127.0.0.1", port: "", values_port: "" });
  const link = () => form.attempt(async () => {
    await edit("link console", form.texts, { quiet: true });
    onDone();
  });
  return (
    <Box as="form" role="group" aria-label="A console at an address" mb="8px" onSubmit={(event) => { event.preventDefault(); void link(); }}>
      <Input label="Console" numeric={false} hint="Front desk" value={form.texts.name} onChange={(text) => form.put("name", text)} />
      <Input label="Its address" numeric={false} value={form.texts.host} onChange={(text) => form.put("host", text)} />
      <Input label="MVR-xchange port" hint="none" value={form.texts.port} onChange={(text) => form.put("port", text)} />
      <Input label="OSC port" hint="none" value={form.texts.values_port} onChange={(text) => form.put("values_port", text)} />
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      <Flex gap="6px">
        <Action type="submit" look="main" flex="1">Link this console</Action>
        <Action flex="none" onClick={onDone}>Leave it</Action>
      </Flex>
    </Box>
  );
}

/** Where consoles are looked for by name. */
function Looking() {
  const objects = useShow((state) => state.objects);
  const { consoles_on } = settings(objects);
  const signal = useLink((state) => state.signal);
  const here = signal?.interfaces ?? [];
  const known = here.some((one) => one.address === consoles_on);
  const options = [
    { value: "", label: "nowhere" },
    ...here.map((one) => ({ value: one.address, label: `${one.name} · ${one.address}${one.loopback ? " · this machine" : ""}` })),
    ...(consoles_on && !known ? [{ value: consoles_on, label: `${consoles_on} · gone` }] : []),
  ];
  return <Choice label="Look on" value={consoles_on ?? ""} options={options} onChange={(address) => quietly(edit("look for consoles", { address: address || null }))} />;
}
