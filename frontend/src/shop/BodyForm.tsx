import { Box, chakra, Flex } from "@chakra-ui/react";
import { Action, Choice, Field, Section } from "../kit/controls";
import { meantNumber } from "../kit/signs";
import { Cells } from "./Cells";
import { type Channel, chooseCurveLive, type Draft, KINDS, top, turning, turningOf, type Wheel, withGel, withMode, withScroller } from "./draft";
import { changeDraft, takePhotometry, useShop } from "./state";
import { XyPicker } from "../kit/XyPicker";

/** What was typed as a number with an optional unit; refused with a reason. */
function numberOf(text: string, least: number, most: number, factors: Record<string, number> = {}): number {
  const match = /^\s*([-+]?\d+(?:[.,]\d+)?)\s*([a-zA-Z°]*)\s*$/.exec(text);
  const factor = match ? (match[2] ? factors[match[2].toLowerCase()] : 1) : undefined;
  if (!match || factor === undefined) throw new Error(`“${text}” is no number: type one from ${least} to ${most}.`);
  const value = Number(match[1]?.replace(",", ".")) * factor;
  if (value < least || value > most) throw new Error(`It cannot be ${value}: type from ${least} to ${most}.`);
  return value;
}
const METRES = { m: 1, mm: 0.001, cm: 0.01 };
const shown = (value: number, digits = 3) => String(Number(value.toFixed(digits)));

interface NumberProps {
  label: string;
  value: number;
  unit?: string;
  least: number;
  most: number;
  factors?: Record<string, number>;
  put: (draft: Draft, value: number) => Draft;
}

function NumberField({ label, value, unit = "", least, most, factors, put }: NumberProps) {
  const known = { ...factors, [unit.toLowerCase()]: 1 };
  const read = (text: string) => numberOf(text, -Infinity, Infinity, known);
  const take = async (text: string, emptied: boolean) => {
    const meant = meantNumber(text, value, "adds", emptied, read);
    const typed = numberOf(String(meant), least, most, known);
    await changeDraft(label, (draft) => put(draft, typed));
  };
  const seen = (text: string) => {
    try {
      return read(text);
    } catch {
      return null;
    }
  };
  return <Field label={unit ? `${label}, ${unit}` : label} value={shown(value)} onCommit={take} signed={{ signs: "adds", base: value, read: seen, shown }} />;
}

function textField(label: string, value: string, put: (draft: Draft, text: string) => Draft) {
  const take = async (text: string) => {
    if (!text.trim()) throw new Error("Type at least one letter.");
    await changeDraft(label, (draft) => put(draft, text.trim()));
  };
  return <Field label={label} numeric={false} value={value} onCommit={take} />;
}

/** What the lamp is: its maker, kind, size, light, lenses, and how far it turns. */
export function BodyForm({ draft }: { draft: Draft }) {
  const { beam, body } = draft;
  const kept = draft.kind === "as it came";
  const kinds = kept ? [{ value: "as it came" as const, label: "As it came in its file" }, ...KINDS] : KINDS;
  return (
    <>
      <Section title="The lamp">
        {textField("Name", draft.name, (now, name) => ({ ...now, name }))}
        {textField("Maker", draft.maker, (now, maker) => ({ ...now, maker }))}
        <Choice label="Kind" value={draft.kind} options={kinds} onChange={(kind) => void changeDraft(`Make it a ${kind}`, (now) => ({ ...now, kind }))} />
        {!kept && (
          <>
            <NumberField label="Length" unit="m" value={body.length_m} least={0.01} most={20} factors={METRES} put={(now, v) => ({ ...now, body: { ...now.body, length_m: v } })} />
            <NumberField label="Width" unit="m" value={body.width_m} least={0.01} most={20} factors={METRES} put={(now, v) => ({ ...now, body: { ...now.body, width_m: v } })} />
            <NumberField label="Height" unit="m" value={body.height_m} least={0.01} most={20} factors={METRES} put={(now, v) => ({ ...now, body: { ...now.body, height_m: v } })} />
          </>
        )}
        <NumberField label="Weight" unit="kg" value={draft.weight_kg} least={0} most={5000} put={(now, v) => ({ ...now, weight_kg: v })} />
        <NumberField label="Power" unit="W" value={draft.power_w} least={0} most={1e6} factors={{ kw: 1000 }} put={(now, v) => ({ ...now, power_w: v })} />
      </Section>
      {!kept && draft.kind !== "hazer" && (
        <Section title="The light">
          {draft.kind === "moving head" && (
            <Choice
              label="Edge" value={beam.kind === "Spot" ? "hard" : "soft"} options={["hard", "soft"]}
              onChange={(edge) => void changeDraft("Edge", (now) => ({ ...now, beam: { ...now.beam, kind: edge === "hard" ? "Spot" : "Wash" } }))}
            />
          )}
          <NumberField label="Beam angle" unit="°" value={beam.beam_angle_deg} least={0.1} most={180} put={(now, v) => ({ ...now, beam: { ...now.beam, beam_angle_deg: v, field_angle_deg: Math.max(now.beam.field_angle_deg, v) } })} />
          <NumberField label="Field angle" unit="°" value={beam.field_angle_deg} least={0.1} most={180} put={(now, v) => ({ ...now, beam: { ...now.beam, field_angle_deg: v, beam_angle_deg: Math.min(now.beam.beam_angle_deg, v) } })} />
          <NumberField label="Flux" unit="lm" value={beam.flux_lm} least={0} most={1e7} factors={{ klm: 1000 }} put={(now, v) => ({ ...now, beam: { ...now.beam, flux_lm: v } })} />
          <NumberField label="Colour" unit="K" value={beam.colour_temperature_k} least={1000} most={25000} put={(now, v) => ({ ...now, beam: { ...now.beam, colour_temperature_k: v } })} />
          <NumberField label="Lens radius" unit="m" value={beam.lens_radius_m} least={0.001} most={5} factors={METRES} put={(now, v) => ({ ...now, beam: { ...now.beam, lens_radius_m: v } })} />
          <Choice label="Lamp" value={beam.lamp} options={[...new Set(["LED", "Discharge", "Halogen", "Tungsten", "Laser", beam.lamp])]} onChange={(lamp) => void changeDraft("Lamp", (now) => ({ ...now, beam: { ...now.beam, lamp } }))} />
          <Measured draft={draft} />
        </Section>
      )}
      {CONVENTIONAL.includes(draft.kind) && <Colour draft={draft} />}
      <Turning draft={draft} />
      {!kept && draft.kind !== "hazer" && <Cells draft={draft} />}
      <Curves draft={draft} />
    </>
  );
}

const CONVENTIONAL: Draft["kind"][] = ["profile", "Fresnel", "PC", "par", "flood", "cyc"];
const SCROLL: Wheel = {
  name: "Colour wheel",
  slots: [["Open", 0.3127, 0.329, 100], ["Red", 0.64, 0.335, 18], ["Amber", 0.54, 0.42, 52], ["Green", 0.29, 0.56, 38], ["Blue", 0.16, 0.09, 7], ["Lavender", 0.28, 0.24, 36]].map(
    ([name, x, y, luminance]) => ({ name: String(name), colour: { x: Number(x), y: Number(y), luminance: Number(luminance) }, image: null, facets: [], filter: null }),
  ),
};

/** What colours a conventional: a gel that stays, a changer with an address of its own. */
function Colour({ draft }: { draft: Draft }) {
  const gel = draft.wheels.find((one) => one.name === "Gel")?.slots[0]?.colour ?? null;
  return (
    <Section title="Its colour">
      <Choice label="Gel" value={gel ? "a gel" : "none"} options={["none", "a gel"]} onChange={(how) => void changeDraft(how === "none" ? "Take the gel out" : "Put a gel in", (now) => withGel(now, how === "none" ? null : { x: 0.54, y: 0.42, luminance: 52 }))} />
      {gel && <XyPicker colour={gel} onPick={(colour) => void changeDraft("Colour of the gel", (now) => withGel(now, colour))} />}
      <Choice
        label="Changer" value={draft.body.scroller ? "a scroller" : "none"} options={[{ value: "none", label: "none" }, { value: "a scroller", label: "a scroller, own address" }]}
        onChange={(how) => void changeDraft(how === "none" ? "Take the scroller off" : "Hang a scroller before it", (now) => withScroller(now, how !== "none", SCROLL))}
      />
    </Section>
  );
}

function Turning({ draft }: { draft: Draft }) {
  const m = useShop((state) => state.mode);
  const channels = draft.modes[m]?.channels ?? [];
  const axes = (["Pan", "Tilt"] as const).flatMap((name) => {
    const at = channels.findIndex((one) => one.ranges[0]?.attribute === name);
    return at < 0 ? [] : [{ name, at, channel: channels[at] as Channel }];
  });
  if (!axes.length) return null;
  const put = (what: string, name: string, change: (channel: Channel) => Channel) =>
    // One lamp turns as it turns: in all its modes.
    changeDraft(what, (now) => now.modes.reduce((all, _, i) => withMode(all, i, (mode) => ({ ...mode, channels: mode.channels.map((one) => (one.ranges[0]?.attribute === name ? change(one) : one)) })), now));
  return (
    <Section title="How far it turns">
      {axes.map(({ name, channel }) => {
        const { rangeDeg, middle, inverted } = turningOf(channel);
        const share = middle / top(channel);
        return (
          <Box key={name}>
            <Field
              label={`${name}, °`} value={shown(rangeDeg, 1)}
              onCommit={async (text) => {
                const typed = numberOf(text, 1, 3600, { "°": 1 });
                await put(`${name} range`, name, (one) => turning(one, typed, Math.round(share * top(one)), inverted));
              }}
            />
            <Field
              label={`${name} middle`} value={String(middle)}
              onCommit={async (text) => {
                const typed = numberOf(text, 0, top(channel)) / top(channel);
                await put(`${name} middle`, name, (one) => turning(one, rangeDeg, Math.round(typed * top(one)), inverted));
              }}
            />
            <Choice
              label={`${name} sense`} value={inverted ? "inverted" : "as built"} options={["as built", "inverted"]}
              onChange={(sense) => void put(`${name} sense`, name, (one) => turning(one, rangeDeg, turningOf(one).middle, sense === "inverted"))}
            />
          </Box>
        );
      })}
    </Section>
  );
}

/** Photometry that was measured, in place of angles and flux. */
function Measured({ draft }: { draft: Draft }) {
  const has = Object.keys(draft.webs).length > 0;
  return (
    <Flex fontSize="12px" color="dim" gap="8px" align="center">
      <Box flex="1">{has ? "By its measured photometry" : "By angles and flux"}</Box>
      {has ? (
        <Action look="quiet" height="22px" onClick={() => void changeDraft("Forget the measured light", (now) => ({ ...now, webs: {} }))}>Forget it</Action>
      ) : (
        <chakra.label cursor="pointer" textDecoration="underline" _hover={{ color: "text" }}>
          take an IES file
          <chakra.input type="file" accept=".ies" aria-label="An IES file" srOnly onChange={(event) => { const file = event.target.files?.[0]; if (file) void takePhotometry(file); }} />
        </chakra.label>
      )}
    </Flex>
  );
}

const CURVES: Record<string, { share: number; c0: number; c1: number; c2: number; c3: number }[]> = {
  Square: [{ share: 0, c0: 0, c1: 0, c2: 1, c3: 0 }],
  "S curve": [{ share: 0, c0: 0, c1: 0, c2: 3, c3: -2 }],
};

/** The dimmer's curve: straight, square, S, or a table of what comes out at tenths. */
function Curves({ draft }: { draft: Draft }) {
  const m = useShop((state) => state.mode);
  const dimmers = (draft.modes[m]?.channels ?? []).flatMap((one) => one.ranges).filter((one) => one.attribute === "Dimmer" && !one.master);
  const now = dimmers[0]?.profile ?? null;
  if (!dimmers.length) return null;
  const choose = (name: string) =>
    changeDraft(`Dimmer curve: ${name}`, (old) => {
      const table = { name: "Table", points: [0, 0.25, 0.5, 0.75].map((share) => ({ share, c0: share * share, c1: ((share + 0.25) ** 2 - share * share) / 0.25, c2: 0, c3: 0 })) };
      const made = name === "Table" ? table : { name, points: CURVES[name] ?? [] };
      const profiles = name === "Linear" || old.profiles.some((one) => one.name === name) ? old.profiles : [...old.profiles, made];
      const modes = old.modes.map((mode, i) =>
        i === m ? { ...mode, channels: mode.channels.map((one) => ({ ...one, ranges: one.ranges.map((range) => (range.attribute === "Dimmer" ? { ...range, profile: name === "Linear" ? null : name } : range)) })) } : mode,
      );
      return { ...old, profiles, modes };
    });
  const table = now === "Table" ? draft.profiles.find((one) => one.name === "Table") : undefined;
  const names = [...new Set(["Linear", "Square", "S curve", "Table", ...draft.profiles.map((one) => one.name)])];
  const outputs = table ? [...table.points.map((one) => one.c0), (table.points.at(-1)?.c0 ?? 0) + (table.points.at(-1)?.c1 ?? 0) * (1 - (table.points.at(-1)?.share ?? 0))] : [];
  return (
    <Section title="Dimmer curve, in this mode">
      <Choice label="Curve" value={now ?? "Linear"} options={names} onChange={(name) => void choose(name)} />
      {table && (
        <Field
          label="At 0 to full" value={outputs.map((one) => shown(one * 100, 1)).join(" ")}
          onCommit={async (text) => {
            const typed = text.trim().split(/[\s;]+/).map((one) => numberOf(one, 0, 100) / 100);
            if (typed.length < 2) throw new Error("Type at least two outputs in percent, parted by blanks.");
            const step = 1 / (typed.length - 1);
            const points = typed.slice(0, -1).map((c0, i) => ({ share: i * step, c0, c1: ((typed[i + 1] ?? c0) - c0) / step, c2: 0, c3: 0 }));
            await changeDraft("Dimmer curve: table", (old) => ({ ...old, profiles: old.profiles.map((one) => (one.name === "Table" ? { ...one, points } : one)) }));
          }}
        />
      )}
      {!(draft.modes[m]?.channels ?? []).some((one) => one.ranges[0]?.attribute === "DimmerCurve") && (
        <Action
          height="24px"
          onClick={() =>
            void changeDraft("Let a channel choose the curve", (old) => {
              const missing = Object.entries(CURVES).filter(([name]) => !old.profiles.some((one) => one.name === name)).map(([name, points]) => ({ name, points }));
              return chooseCurveLive({ ...old, profiles: [...old.profiles, ...missing] }, m, [null, "Square", "S curve"]);
            })
          }
        >
          Let a channel choose it live
        </Action>
      )}
    </Section>
  );
}
