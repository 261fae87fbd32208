import { Box, Flex, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Field, Input, Level, Section, Segments, Sign } from "../../kit/controls";
import { called, settings, thing, things, useShow } from "../../show/document";
import { edit, gesture } from "../../show/edits";
import { angle, length, metresOf, type System } from "../../show/format";
import type { DriverChannel, Row, Thing, Usual } from "../../show/types";
import { useForm } from "../../show/useForm";

const USUAL: { value: Usual; label: string; says: string }[] = [
  { value: "lift", label: "a lift", says: "up and down from where it stands" },
  { value: "fly bar", label: "a fly bar", says: "out and in" },
  { value: "slider", label: "a slider", says: "along a line" },
  { value: "turntable", label: "a turntable", says: "to an angle" },
  { value: "spinner", label: "a spinner", says: "on and on, with a return" },
  { value: "all six", label: "all six", says: "three places and three turns" },
];
const AXES: Record<DriverChannel["axis"], string> = { x: "Shifted x", y: "Shifted y", z: "Raised", "turn x": "Turned about x", "turn y": "Turned about y", "turn z": "Turned", size: "Size", spin: "Spin" };
const RAD = Math.PI / 180;

/** The feature that a channel drives, and its unit from the type's. */
const featureOf = (axis: DriverChannel["axis"]): { feature: string; factor: number } =>
  axis === "size" ? { feature: "size", factor: 1 } : axis === "spin" ? { feature: "spin", factor: RAD } : axis.startsWith("turn") ? { feature: axis, factor: RAD } : { feature: `shift ${axis}`, factor: 1 };

/** A value of a channel in words, in its type's unit. */
function valueText({ axis }: DriverChannel, value: number, system: System): string {
  if (axis === "size") return `× ${value.toFixed(2)}`;
  if (axis === "spin") return `${angle(value)}/s`;
  return axis.startsWith("turn") ? angle(value) : length(value, system);
}

/** A number of a channel as it is typed. */
const typed = ({ axis }: DriverChannel, value: number, system: System): string => (axis === "x" || axis === "y" || axis === "z" ? length(value, system) : String(Number(value.toFixed(4))));

const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);

/** One channel: moved by hand, and how far and how fast it goes. */
function Channel({ driver, channel, all }: { driver: Thing<"fixture">; channel: DriverChannel; all: readonly DriverChannel[] }) {
  const { system } = settings(useShow((state) => state.objects));
  const { feature, factor } = featureOf(channel.axis);
  const held = driver.body.hands?.[feature];
  const now = held === undefined ? channel.home : held / factor;
  const span = channel.high - channel.low;
  const at = (share: number) => channel.low + share * span;
  const hold = (share: number) => ({ ids: [driver.id], values: { [feature]: at(share) * factor } });
  const said = (one: DriverChannel) => ({ axis: one.axis, low: typed(one, one.low, system), home: typed(one, one.home, system), high: typed(one, one.high, system), speed: typed(one, one.speed, system), acceleration: typed(one, one.acceleration, system), bits: one.bits });
  const set = (change: Partial<Record<"low" | "home" | "high" | "speed" | "acceleration", string>> & { bits?: 8 | 16 }) =>
    edit("set driver", { id: driver.id, channels: all.map((one) => (one.axis === channel.axis ? { ...said(one), ...change } : said(one))) }, { quiet: true });
  const field = (name: "low" | "home" | "high" | "speed" | "acceleration", label: string) => (
    <Field label={label} value={typed(channel, channel[name], system)} onCommit={(text) => set({ [name]: text })} />
  );
  const limit = channel.axis === "size" || channel.axis === "spin";
  const name = AXES[channel.axis];
  return (
    <Box mb="4px">
      <Level label={name} value={(now - channel.low) / span} unset={held === undefined} says={(share) => valueText(channel, at(share), system)} onMove={(share) => gesture("hold values", hold(share))} onChange={(share) => quietly(edit("hold values", hold(share), { quiet: true }))} />
      <chakra.details fontSize="12px">
        <chakra.summary color="dim" cursor="pointer" mb="4px">{name}: {valueText(channel, channel.low, system)} to {valueText(channel, channel.high, system)}, {channel.bits} bit</chakra.summary>
        {!limit && field("low", `${name}, low`)}
        {!limit && field("home", `${name}, home`)}
        {field("high", limit ? `${name}, limit` : `${name}, high`)}
        {channel.axis !== "spin" && field("speed", `${name}, speed`)}
        {field("acceleration", `${name}, accel.`)}
        <Segments<"8" | "16"> name={`${name}, resolution`} value={String(channel.bits) as "8" | "16"} onChange={(bits) => quietly(set({ bits: bits === "8" ? 8 : 16 }))} options={[{ value: "16", label: "16 bit" }, { value: "8", label: "8 bit" }]} />
      </chakra.details>
    </Box>
  );
}

/** One driver, by hand and as it is made. */
function OneDriver({ driver }: { driver: Thing<"fixture"> }) {
  const types = useShow((state) => state.types);
  const { system } = settings(useShow((state) => state.objects));
  const found = types[driver.body.type]?.driver;
  const drives = driver.body.drives;
  if (!found || !drives) return null;
  const pivot = drives.pivot ?? [0, 0, 0];
  const held = Object.keys(driver.body.hands ?? {}).length > 0;
  const name = driver.body.number == null ? "this driver" : `driver ${driver.body.number}`;
  const address = driver.body.universe ? `${driver.body.universe}.${String(driver.body.address).padStart(3, "0")}` : "no address yet";
  const set = (change: Record<string, unknown>) => edit("set driver", { id: driver.id, ...change }, { quiet: true });
  const part = (k: 0 | 1 | 2, label: string) => (
    <Field key={label} label={label} value={length(pivot[k], system)} onCommit={(text) => {
      const metres = metresOf(text, system);
      if (metres === null) throw new Error(`“${text}” is not a length: type a number with its unit, for instance 1.5m.`);
      return set({ pivot: pivot.map((one, i) => (i === k ? metres : one)) as [number, number, number] });
    }} />
  );
  return (
    <Section title={`${driver.body.number == null ? "Driver" : `Driver ${driver.body.number}`}: ${types[driver.body.type]?.name ?? ""}`}>
      <Box fontSize="12px" color="dim" mb="6px">{address}. By hand it goes where you drag it, at its real speed; let go, console or look have it again.</Box>
      {found.channels.map((channel) => <Channel key={channel.axis} driver={driver} channel={channel} all={found.channels} />)}
      <chakra.details fontSize="12px" mb="6px">
        <chakra.summary color="dim" cursor="pointer" mb="4px">Pivot, axes and return</chakra.summary>
        {part(0, "Pivot off, along x")}
        {part(1, "Pivot off, along y")}
        {part(2, "Pivot off, up")}
        <Field label="Axes turned by" value={angle(drives.turned_deg ?? 0)} onCommit={(text) => set({ turned: text.replaceAll("°", "") })} />
        <Field label="Axes raked by" value={angle(drives.raked_deg ?? 0)} onCommit={(text) => set({ raked: text.replaceAll("°", "") })} />
        <Segments<"yes" | "no"> name="A return channel" value={found.returns ? "yes" : "no"} onChange={(returns) => quietly(set({ returns: returns === "yes" }))} options={[{ value: "no", label: "no return" }, { value: "yes", label: "with return", says: "One more channel: its upper quarter brings all of it home and holds" }]} />
      </chakra.details>
      <Flex gap="6px" wrap="wrap">
        <Action look="quiet" height="24px" disabled={!held} onClick={() => quietly(edit("release", { ids: [driver.id] }, { quiet: true }))}>Let go of {name}</Action>
        <Action look="quiet" height="24px" onClick={() => quietly(edit("remove", { ids: [driver.id] }, { quiet: true }))}>Remove {name}</Action>
      </Flex>
    </Section>
  );
}

/** What drivers a thing has, and one more for it. A driver that is itself selected is shown alone. */
export function Drivers({ of }: { of: Row }) {
  const objects = useShow((state) => state.objects);
  const form = useForm({ number: "", start: "" });
  const [usual, setUsual] = useState<Usual>("lift");
  const own = of.kind === "fixture" && of.body.drives ? [thing(objects, of.id, "fixture")] : things(objects, "fixture").filter((one) => one.body.drives?.thing === of.id);
  const itself = of.kind === "fixture" && Boolean(of.body.drives);
  return (
    <>
      {own.map((driver) => driver && <OneDriver key={driver.id} driver={driver} />)}
      {!itself && (
        <Section title={own.length ? "Another driver for it" : "Let a console move it"}>
          <Choice label="Moves as" value={usual} options={USUAL.map(({ value, label }) => ({ value, label }))} onChange={setUsual} />
          <Action look={own.length ? "plain" : "main"} title={USUAL.find((one) => one.value === usual)?.says} onClick={() => void form.attempt(() => edit("add driver", { thing: of.id, usual, ...form.texts }, { quiet: true }))}>
            Move {of.kind === "fixture" ? `fixture ${called(of)}` : called(of)} by {USUAL.find((one) => one.value === usual)?.label}
          </Action>
          {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
          <chakra.details fontSize="12px" mt="6px">
            <chakra.summary color="dim" cursor="pointer" mb="4px">Its number and first slot</chakra.summary>
            <Input label="Driver number" hint="none" value={form.texts.number} onChange={(text) => form.put("number", text)} wrong={form.wrongAt("number")} />
            <Input label="First slot" hint="none yet" value={form.texts.start} onChange={(text) => form.put("start", text)} wrong={form.wrongAt("start")} />
          </chakra.details>
        </Section>
      )}
    </>
  );
}
