import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Empty, Field, Input, Section } from "../kit/controls";
import type { Draft, Slot, Wheel } from "./draft";
import { assetPicture, changeDraft, drawGobo, takeImage } from "./state";
import { hexOf, XyPicker } from "../kit/XyPicker";

const PATTERNS = ["dots", "bars", "breakup", "spiral", "window", "text", "rays", "ripples"] as const;
const READY = ["Colour wheel", "Colour wheel 2", "Gobo wheel", "Gobo wheel 2", "Prism wheel", "Built-in colours"];

function putWheel(what: string, w: number, change: (wheel: Wheel) => Wheel): Promise<boolean> {
  return changeDraft(what, (now) => ({ ...now, wheels: now.wheels.map((one, i) => (i === w ? change(one) : one)) }));
}
const putSlot = (what: string, w: number, s: number, change: (slot: Slot) => Slot) => putWheel(what, w, (wheel) => ({ ...wheel, slots: wheel.slots.map((one, i) => (i === s ? change(one) : one)) }));
const isGobo = (wheel: Wheel) => wheel.name.startsWith("Gobo");
const isPrism = (wheel: Wheel) => wheel.name.startsWith("Prism");
const newSlot = (name: string, coloured: boolean): Slot => ({ name, colour: coloured ? { x: 0.3127, y: 0.329, luminance: 100 } : null, image: null, facets: [], filter: null });

/** Wheels and their slots: a colour each, a picture each, or a prism's facets. */
export function Wheels({ draft }: { draft: Draft }) {
  const [at, setAt] = useState(0);
  const [slot, setSlot] = useState(0);
  const [name, setName] = useState("");
  const wheel = draft.wheels[at];
  const missing = READY.filter((one) => !draft.wheels.some((have) => have.name === one));
  const add = () => {
    const wanted = name || missing[0];
    if (!wanted) return;
    const made: Wheel = { name: wanted, slots: [newSlot(wanted.startsWith("Prism") ? "None" : "Open", false)] };
    void changeDraft(`Add the ${wanted.toLowerCase()}`, (now) => ({ ...now, wheels: [...now.wheels, made] })).then(() => setAt(draft.wheels.length));
  };
  return (
    <>
      <Section title="Wheels">
        {draft.wheels.length > 0 && <Choice label="Wheel" value={String(at)} options={draft.wheels.map((one, i) => ({ value: String(i), label: `${one.name}, ${one.slots.length} slots` }))} onChange={(chosen) => { setAt(Number(chosen)); setSlot(0); }} />}
        {missing.length > 0 && (
          <Flex gap="6px" align="center">
            <Box flex="1">
              <Choice label="New" value={name || (missing[0] ?? "")} options={missing} onChange={setName} />
            </Box>
            <Action height="26px" mb="6px" onClick={add}>Add</Action>
          </Flex>
        )}
      </Section>
      {!wheel && <Empty>No wheel yet. Add one, or paste a manual’s ranges into a colour or gobo channel: its slots come with them.</Empty>}
      {wheel && (
        <Section title={wheel.name}>
          <Flex direction="column" gap="1px" mb="8px">
            {wheel.slots.map((one, s) => (
              <chakra.button
                key={s} type="button" display="flex" alignItems="center" gap="8px" px="6px" py="3px" borderRadius="4px" cursor="pointer" fontSize="12px" textAlign="left" aria-pressed={s === slot}
                bg={s === slot ? "verdigrisDeep" : "transparent"} _hover={{ bg: s === slot ? "verdigrisDeep" : "ink3" }} onClick={() => setSlot(s)}
              >
                <Box width="18px" fontFamily="mono" color="faint" textAlign="right">{s + 1}</Box>
                <SlotPicture draft={draft} wheel={wheel} slot={one} />
                <Box flex="1" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">{one.name}</Box>
              </chakra.button>
            ))}
          </Flex>
          <Flex gap="6px">
            <Action height="24px" onClick={() => void putWheel("Add a slot", at, (now) => ({ ...now, slots: [...now.slots, newSlot(`Slot ${now.slots.length + 1}`, !isGobo(now) && !isPrism(now))] })).then(() => setSlot(wheel.slots.length))}>Add a slot</Action>
            {wheel.slots.length > 1 && <Action look="quiet" height="24px" onClick={() => void putWheel("Remove the last slot", at, (now) => ({ ...now, slots: now.slots.slice(0, -1) }))}>Remove the last</Action>}
          </Flex>
        </Section>
      )}
      {wheel?.slots[slot] && <SlotForm key={`${at} ${slot}`} draft={draft} wheel={wheel} w={at} s={slot} slot={wheel.slots[slot] as Slot} />}
    </>
  );
}

function SlotPicture({ draft, wheel, slot }: { draft: Draft; wheel: Wheel; slot: Slot }) {
  const asset = slot.image ? draft.images[slot.image] : undefined;
  if (asset) return <chakra.img src={assetPicture(asset)} alt="" width="20px" height="20px" borderRadius="50%" border="1px solid" borderColor="line" />;
  const fill = slot.colour ? hexOf(slot.colour) : undefined;
  return (
    <chakra.svg width="20px" height="20px" viewBox="-10 -10 20 20" flex="none" stroke="line" fill="none" aria-hidden>
      <circle r="9" style={fill && !isGobo(wheel) ? { fill } : undefined} />
      {isPrism(wheel) && slot.facets.map((one, i) => <chakra.circle key={i} cx={one.x * 6} cy={-one.y * 6} r="2" fill="dim" stroke="none" />)}
    </chakra.svg>
  );
}

function SlotForm({ draft, wheel, w, s, slot }: { draft: Draft; wheel: Wheel; w: number; s: number; slot: Slot }) {
  return (
    <Section title={`Slot ${s + 1}`}>
      <Field label="Name" numeric={false} value={slot.name} onCommit={async (text) => { await putSlot("Name a slot", w, s, (now) => ({ ...now, name: text.trim() || now.name })); }} />
      {!isGobo(wheel) && !isPrism(wheel) && (
        <XyPicker
          colour={slot.colour ?? { x: 0.3127, y: 0.329, luminance: 100 }}
          onPick={(colour) => void putSlot(`Colour ${slot.name}`, w, s, (now) => ({ ...now, colour }))}
        />
      )}
      {isPrism(wheel) && <PrismForm w={w} s={s} slot={slot} />}
      {isGobo(wheel) && <GoboForm draft={draft} w={w} s={s} slot={slot} />}
    </Section>
  );
}

function PrismForm({ w, s, slot }: { w: number; s: number; slot: Slot }) {
  const row = slot.facets.length > 1 && slot.facets.every((one) => one.y === 0);
  const make = (count: number, inRow: boolean) =>
    putSlot(`${count} facets`, w, s, (now) => ({
      ...now,
      facets: Array.from({ length: count }, (_, i) => {
        if (inRow) return { x: Number(((i - (count - 1) / 2) * 0.8).toFixed(4)), y: 0, turn_deg: 0 };
        const turn = ((360 * i) / count + 180) % 360 - 180;
        return { x: Number((0.55 * Math.cos((turn * Math.PI) / 180)).toFixed(6)), y: Number((0.55 * Math.sin((turn * Math.PI) / 180)).toFixed(6)), turn_deg: turn };
      }),
    }));
  return (
    <>
      <Field label="Facets" value={String(slot.facets.length)} onCommit={async (text) => {
        const count = Number(text);
        if (!Number.isInteger(count) || count < 0 || count > 16) throw new Error("Type a number from 0 to 16.");
        await make(count, row);
      }} />
      <Choice label="They lie" value={row ? "in a row" : "on a ring"} options={["on a ring", "in a row"]} onChange={(how) => void make(slot.facets.length, how === "in a row")} />
    </>
  );
}

function GoboForm({ draft, w, s, slot }: { draft: Draft; w: number; s: number; slot: Slot }) {
  const [pattern, setPattern] = useState<(typeof PATTERNS)[number]>("dots");
  const [count, setCount] = useState("12");
  const [weight, setWeight] = useState("50");
  const [turn, setTurn] = useState("0");
  const [text, setText] = useState("");
  const takeOn = (image: { asset: string; key: string } | null) => {
    if (!image) return;
    const name = `gobo_${image.key.slice(0, 10)}`;
    void changeDraft(`Picture of ${slot.name}`, (now) => ({
      ...now, images: { ...now.images, [name]: image.asset },
      wheels: now.wheels.map((one, i) => (i === w ? { ...one, slots: one.slots.map((other, k) => (k === s ? { ...other, image: name } : other)) } : one)),
    }));
  };
  const draw = async () => takeOn(await drawGobo({ pattern, count: Math.min(400, Math.max(1, Math.round(Number(count)) || 1)), weight: Math.min(1, Math.max(0.05, (Number(weight) || 50) / 100)), turn_deg: Number(turn) || 0, seed: Math.floor(Math.random() * 1e6), text }));
  const asset = slot.image ? draft.images[slot.image] : undefined;
  return (
    <>
      {asset && <chakra.img src={assetPicture(asset)} alt={`The picture of ${slot.name}`} width="96px" height="96px" borderRadius="50%" border="1px solid" borderColor="line" mx="auto" mb="8px" />}
      <Choice label="Draw" value={pattern} options={PATTERNS} onChange={setPattern} />
      {pattern === "text" ? <Input label="Words" numeric={false} value={text} onChange={setText} /> : <Input label="How many" value={count} onChange={setCount} />}
      {pattern !== "text" && <Input label="Weight, %" value={weight} onChange={setWeight} />}
      <Input label="Turned, °" value={turn} onChange={setTurn} />
      <Flex gap="6px" align="center">
        <Action height="24px" onClick={() => void draw()}>Draw {pattern}</Action>
        <chakra.label fontSize="12px" color="dim" cursor="pointer" _hover={{ color: "text" }} textDecoration="underline">
          or take a picture
          <chakra.input type="file" accept="image/png,image/jpeg" aria-label="A picture for the slot" srOnly onChange={(event) => { const file = event.target.files?.[0]; if (file) void takeImage(file).then(takeOn); }} />
        </chakra.label>
      </Flex>
    </>
  );
}
