import { Box, chakra, Flex } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { Action, Choice, Field, Input, Sign } from "../../kit/controls";
import { many } from "../../show/format";
import { press } from "../../show/simulated";
import type { ConsoleState } from "../../show/types";
import { useForm } from "../../show/useForm";
import { Touch } from "./Touch";

interface Of {
  id: string;
  state: ConsoleState;
}

/** What else there is on a simulated console: its editor, tests of the line, what it sends, how it is linked, faults. */
export function SimulatedSide({ id, state }: Of) {
  return (
    <Box width="318px" flex="none" overflow="auto" p="8px 12px">
      <Offers id={id} state={state} />
      <Part title={`Editor: ${state.editor.length ? many(state.editor.length, "value") : "nothing"}`} open>
        <Editor id={id} state={state} />
      </Part>
      {state.functions.length > 0 && (
        <Part title={`Functions of ${state.selected[0] ?? "what is selected"}`}>
          <Functions id={id} state={state} />
        </Part>
      )}
      <Part title="Groups and masters"><Groups id={id} state={state} /></Part>
      <Part title="Sweep and identify"><Drills id={id} state={state} /></Part>
      <Part title="What it sends"><Sends id={id} state={state} /></Part>
      <Part title="How it is linked"><Manners id={id} state={state} /></Part>
      <Part title="Deliberate faults"><Faults id={id} state={state} /></Part>
    </Box>
  );
}

function Part({ title, open, children }: { title: string; open?: boolean; children: ReactNode }) {
  return (
    <chakra.details open={open} mb="6px">
      <chakra.summary fontSize="12px" color="text" cursor="pointer" mb="5px">{title}</chakra.summary>
      {children}
    </chakra.details>
  );
}

/** Rigs that its person is asked to take. */
function Offers({ id, state }: Of) {
  return state.station.offers.filter((one) => one.way).map((one) => (
    <Box key={one.key} mb="8px" role="group" aria-label={`Offer of ${one.by}`}>
      <Sign tone="attention">{one.by} asks to have {many(one.fixtures ?? 0, "fixture")} taken ({one.way}){one.comment && `: ${one.comment}`}.</Sign>
      <Flex gap="6px">
        <Action flex="1" look="main" onClick={() => void press(id, { do: "answer", key: one.key, yes: true })}>Take them</Action>
        <Action flex="1" onClick={() => void press(id, { do: "answer", key: one.key, yes: false })}>Refuse</Action>
      </Flex>
    </Box>
  ));
}

function Editor({ id, state }: Of) {
  const form = useForm({ name: "", cue: "", fade: "2", delay: "", follow: "" });
  const [kind, setKind] = useState<"position" | "colour" | "beam" | "intensity">("position");
  const number = (text: string, what: string): number => {
    const value = Number(text);
    if (!text.trim() || !Number.isFinite(value) || value < 0) throw new Error(`Type ${what}.`);
    return value;
  };
  const cue = () => form.attempt(async () => {
    const follow = form.texts.follow.trim() ? { follow_s: number(form.texts.follow, "the seconds after which the next one follows") } : {};
    await press(id, { do: "keep cue", name: form.texts.name, fade_s: number(form.texts.fade, "the seconds of the fade"), delay_s: number(form.texts.delay || "0", "the seconds of the delay"), ...(form.texts.cue.trim() ? { number: number(form.texts.cue, "a number for the cue") } : {}), ...follow });
  });
  return (
    <>
      {state.osc.problem && <Sign tone="attention">{state.osc.problem}</Sign>}
      <Box role="list" aria-label="Values in the editor" maxHeight="120px" overflow="auto" mb="6px">
        {state.editor.map((one) => (
          <Flex key={`${one.number} ${one.function}`} role="listitem" fontSize="12px" gap="8px">
            <Box fontFamily="mono" width="34px" textAlign="right">{one.number ?? "–"}</Box>
            <Box flex="1" truncate>{one.function}</Box>
            <Box fontFamily="mono">{one.value}</Box>
          </Flex>
        ))}
      </Box>
      <Input label="Called" numeric={false} value={form.texts.name} onChange={(text) => form.put("name", text)} />
      <Flex gap="6px" mb="6px">
        <Action flex="1" disabled={!state.editor.length} onClick={() => void cue()}>Keep as a cue</Action>
        <Action flex="none" disabled={!state.editor.length} onClick={() => void press(id, { do: "clear" })}>Clear</Action>
      </Flex>
      <Flex gap="6px" mb="2px">
        <Box flex="1"><Choice label="Palette" value={kind} options={["position", "colour", "beam", "intensity"]} onChange={setKind} /></Box>
        <Action flex="none" height="26px" disabled={!state.editor.length} aria-label="Keep as a palette" onClick={() => void press(id, { do: "keep palette", kind, name: form.texts.name })}>Keep</Action>
      </Flex>
      <chakra.details mb="6px">
        <chakra.summary fontSize="12px" color="dim" cursor="pointer" mb="5px">Times of the cue</chakra.summary>
        <Input label="Cue" hint="next" value={form.texts.cue} onChange={(text) => form.put("cue", text)} />
        <Input label="Fade, s" value={form.texts.fade} onChange={(text) => form.put("fade", text)} />
        <Input label="Delay, s" hint="0" value={form.texts.delay} onChange={(text) => form.put("delay", text)} />
        <Input label="Follow-on, s" hint="waits" value={form.texts.follow} onChange={(text) => form.put("follow", text)} />
      </chakra.details>
      <chakra.details mb="6px">
        <chakra.summary fontSize="12px" color="dim" cursor="pointer" mb="5px">Levels by hand</chakra.summary>
        <Touch id={id} />
      </chakra.details>
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      {state.palettes.map((one) => (
        <Action key={one.number} width="100%" height="24px" mb="4px" title={`${one.kind} of ${many(one.fixtures, "fixture")}, into the editor`} onClick={() => void press(id, { do: "apply palette", number: one.number })}>
          {one.number} · {one.name}
        </Action>
      ))}
    </>
  );
}

/** What each function of the first selected fixture is at; typed over, it is in the editor. */
function Functions({ id, state }: Of) {
  const number = state.selected[0];
  return state.functions.map((one) => (
    <Field
      key={`${number} ${one.function}`} label={one.function} value={String(one.value)}
      onCommit={async (text) => {
        if (!Number.isFinite(Number(text))) throw new Error("Type a physical value, such as 30 or 0.5.");
        await press(id, { do: "value", number, function: one.function, value: Number(text) });
      }}
    />
  ));
}

function Groups({ id, state }: Of) {
  const form = useForm({ name: "" });
  return (
    <>
      {Object.entries(state.groups).map(([name, count]) => (
        <Flex key={name} gap="6px" mb="4px">
          <Action flex="1" height="24px" onClick={() => void press(id, { do: "select", name })}>Select {name} ({count})</Action>
          <Action flex="none" height="24px" disabled={state.masters.some((one) => one.name === name)} onClick={() => void press(id, { do: "keep master", name })}>Sub {name}</Action>
        </Flex>
      ))}
      <Input label="New group" numeric={false} value={form.texts.name} onChange={(text) => form.put("name", text)} />
      <Action width="100%" disabled={!state.selected.length || !form.texts.name.trim()} onClick={() => void press(id, { do: "keep group", name: form.texts.name.trim() })}>Keep {many(state.selected.length, "selected fixture")} as a group</Action>
    </>
  );
}

function Drills({ id, state }: Of) {
  const form = useForm({ sweep: "8", identify: "1" });
  const run = (name: "sweep_s" | "identify_s", text: string) => form.attempt(async () => {
    if (!(Number(text) > 0)) throw new Error("Type seconds, such as 1 or 0.5.");
    await press(id, { do: "drill", [name]: Number(text) });
  });
  const going = state.sweep_s || state.identify_s;
  return (
    <>
      <Input label="Sweep, s" value={form.texts.sweep} onChange={(text) => form.put("sweep", text)} />
      <Action width="100%" mb="6px" look={state.sweep_s ? "on" : "plain"} title="Every slot from nothing to full and back" onClick={() => void run("sweep_s", form.texts.sweep)}>Sweep all slots</Action>
      <Input label="Each for, s" value={form.texts.identify} onChange={(text) => form.put("identify", text)} />
      <Action width="100%" mb="6px" look={state.identify_s ? "on" : "plain"} title="Each fixture to full in turn, the others dark" onClick={() => void run("identify_s", form.texts.identify)}>
        Identify{state.identified !== null ? `: ${state.identified}` : ""}
      </Action>
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      <Action width="100%" disabled={!going} onClick={() => void press(id, { do: "drill" })}>Back to the cues</Action>
    </>
  );
}

function Sends({ id, state }: Of) {
  return (
    <>
      <Field label="sACN universes" numeric={false} value={state.sacn} hint="none" onCommit={(sacn) => press(id, { do: "send", sacn })} />
      <Field label="Art-Net universes" numeric={false} value={state.artnet} hint="none" onCommit={(artnet) => press(id, { do: "send", artnet })} />
      <Field label="sACN priority" value={String(state.priority)} onCommit={(text) => press(id, { do: "send", priority: Number(text) || 0 })} />
      <Box fontSize="12px" color="dim">Art-Net's port-addresses count from 0: universe 1 goes out as 0.</Box>
    </>
  );
}

function Manners({ id, state }: Of) {
  const { station } = state;
  const has = (feature: string) => feature in station.features;
  const turn = (feature: string) => Object.keys({ answers: 0, values: 0, selection: 0, palettes: 0 }).filter((one) => (one === feature ? !has(one) : has(one)));
  return (
    <>
      <Box fontSize="12px" color="dim" mb="4px">MVR-xchange on port {station.port}, values by OSC on {state.osc.port}: {state.osc.came} came.</Box>
      <Choice label="Speaks MVR" value={station.version} options={[...new Set(["1.6", "1.5", "1.8", "2.0", station.version])]} onChange={(version) => void press(id, { do: "manners", version })} />
      {(["answers", "values", "selection", "palettes"] as const).map((one) => (
        <Action key={one} width="100%" height="24px" mb="4px" look={has(one) ? "on" : "plain"} aria-pressed={has(one)} onClick={() => void press(id, { do: "manners", features: turn(one) })}>
          {{ answers: "Answers line by line", values: "Takes values", selection: "Tells its selection", palettes: "Tells its palettes" }[one]}
        </Action>
      ))}
      <Action width="100%" height="24px" mb="4px" look={station.asks ? "on" : "plain"} aria-pressed={station.asks} onClick={() => void press(id, { do: "manners", asks: !station.asks })}>Asks its person first</Action>
      <Action width="100%" height="24px" mb="4px" look={state.announced ? "on" : "plain"} aria-pressed={state.announced} title="By mDNS on this machine" onClick={() => void press(id, { do: "announce", yes: !state.announced })}>Is found by name</Action>
      <Action width="100%" height="24px" disabled={!state.fixtures} onClick={() => void press(id, { do: "show rig" })}>Share its rig</Action>
    </>
  );
}

function Faults({ id, state }: Of) {
  const { faults } = state;
  const set = (command: Record<string, unknown>) => press(id, { do: "fault", ...command });
  const numbers = (text: string) => text.split(/[\s,;]+/).filter(Boolean).map(Number).filter((one) => Number.isInteger(one) && one > 0);
  return (
    <>
      <Field label="Slots later" value={String(faults.shift)} onCommit={(text) => set({ shift: Number(text) || 0 })} />
      <Field label="Universes higher" value={String(faults.universe)} onCommit={(text) => set({ universe: Number(text) || 0 })} />
      <Field label="Packets lost, %" value={String(Math.round(faults.drop * 100))} onCommit={(text) => set({ drop: (Number(text) || 0) / 100 })} />
      <Field label="Silent fixtures" numeric={false} hint="61, 62" value={faults.silent.join(", ")} onCommit={(text) => set({ silent: numbers(text) })} />
      <Field label="Unknown types" numeric={false} hint="Heron" value={faults.unknown.join(", ")} onCommit={(text) => set({ unknown: text.split(/\s*,\s*/).filter(Boolean) })} />
      {Object.entries(state.modes).filter(([, modes]) => modes.length > 1).map(([type, modes]) => (
        <Choice key={type} label={`${type} in`} value={faults.modes[type] ?? ""} options={[{ value: "", label: "as offered" }, ...modes]} onChange={(mode) => mode && void set({ name: type, mode })} />
      ))}
      <Flex gap="6px">
        <Action flex="1" height="24px" look={faults.preview ? "on" : "plain"} aria-pressed={faults.preview} onClick={() => void set({ preview: !faults.preview })}>Preview only</Action>
        <Action flex="1" height="24px" look={faults.dead ? "on" : "plain"} aria-pressed={faults.dead} title="It sends nothing more, without a word, and drops its links" onClick={() => void set({ dead: !faults.dead })}>{faults.dead ? "Come back" : "Die"}</Action>
      </Flex>
    </>
  );
}
