import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Field, Level, Section, Segments } from "../../kit/controls";
import { hexOf, rgbOf, XyPicker } from "../../kit/XyPicker";
import { useColours } from "../../show/colours";
import { called, things, useShow } from "../../show/document";
import { edit, gesture } from "../../show/edits";
import type { ColoursOut, EditArgs, Thing } from "../../show/types";

type Prefer = NonNullable<EditArgs["set colour"]["prefer"]>;
const MIXTURES: { value: Prefer; label: string; says: string }[] = [
  { value: "brightest", label: "brightest", says: "Of all mixtures the brightest" },
  { value: "even", label: "all share", says: "All emitters share in it: a small change of colour changes them little" },
  { value: "fullest", label: "fullest", says: "The spectrum nearest to a white of that temperature: faces and cloth look right" },
];
const WHITES = [2700, 3200, 4500, 5600, 6500] as const;
const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** Colour: by x and y within what the selection mixes, as a white, by slot, by its own emitters or flags, or like another's. */
export function ColourSection({ chosen, cells }: { chosen: Thing<"fixture">[]; cells: number[] }) {
  const ids = chosen.map((one) => one.id);
  const { kinds, now } = useColours(ids);
  const [open, setOpen] = useState(false);
  const [prefer, setPrefer] = useState<Prefer>("brightest");
  const objects = useShow((state) => state.objects);
  const mixing = kinds.filter((kind) => kind.outline.length);
  const wheels = alike(kinds);
  const still = kinds.filter((kind) => !kind.outline.length && !kind.slots.length).reduce((sum, kind) => sum + kind.ids.length, 0);
  const held = { ...chosen[0]?.body.hands, ...chosen[0]?.body.cells?.[String(cells[0])] };
  const parts = [...new Set(kinds.flatMap((kind) => [...kind.emitters, ...kind.flags]))];
  if (!kinds.length) return null;
  const some = cells.length ? { cells } : {};
  const given = { ids, ...some, ...(prefer === "brightest" ? {} : { prefer }) };
  const able = mixing.length + wheels.length > 0;
  return (
    <Section title="Colour">
      {!able && <Box color="dim" fontSize="12px">They have no colour of their own: give them a gel in Hang.</Box>}
      {able && (
        <>
          <XyPicker
            bare colour={{ x: Number((now?.[0] ?? 0.3127).toFixed(4)), y: Number((now?.[1] ?? 0.329).toFixed(4)), luminance: 100 }} outlines={mixing.map((kind) => kind.outline)}
            onPick={({ x, y }) => quietly(edit("set colour", { ...given, x, y }))}
          />
          <Flex gap="4px" mt="8px" mb="6px" align="center">
            {WHITES.map((kelvin) => (
              <Action key={kelvin} height="22px" px="6px" fontSize="11.5px" title={`White of ${kelvin} K`} onClick={() => quietly(edit("set colour", { ...given, kelvin }))}>
                {kelvin}
              </Action>
            ))}
            <Box color="faint" fontSize="11.5px">K</Box>
          </Flex>
          <Field label="White, tint" value="" hint="4200, +0.005" onCommit={(text) => white(given, text)} />
          {kinds.some((kind) => kind.emitters.length > 3) && (
            <Segments name="Which mixture, where several come to the colour" value={prefer} onChange={setPrefer} options={MIXTURES.filter(({ value }) => value !== "fullest" || kinds.some((kind) => kind.spectra))} />
          )}
          <Choice
            label="Same as" value="" options={[{ value: "", label: "another fixture" }, ...things(objects, "fixture").filter((one) => !ids.includes(one.id)).map((one) => ({ value: one.id, label: called(one) }))]}
            onChange={(like) => {
              if (like) quietly(edit("set colour", { ...given, like }));
            }}
          />
          {wheels.map((kind) => (
            <Flex key={kind.ids.join()} gap="4px" wrap="wrap" mb="6px" role="group" aria-label={`Slots of ${kind.type}`}>
              {kind.slots.map(({ slot, name, xy }) => (
                <chakra.button
                  key={slot} type="button" aria-label={name} title={`${kind.type}: ${name}`} width="22px" height="22px" borderRadius="50%" border="2px solid" cursor="pointer"
                  borderColor={held["colour slot"] === slot ? "brass" : "line"} style={{ background: hexOf({ x: xy[0], y: xy[1], luminance: 100 }) }}
                  onClick={() => quietly(edit("hold values", { ids: kind.ids, ...some, values: { "colour slot": slot } }))}
                />
              ))}
            </Flex>
          ))}
          {parts.length > 0 && (
            <Action look="quiet" height="22px" aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? "Put them away" : "One by one"}
            </Action>
          )}
          {open && parts.map((name) => <Level key={`${name} ${ids.join()}`} label={name} value={held[name] ?? 0} onMove={(value) => gesture("hold values", { ids, ...some, values: { [name]: value } })} onChange={(value) => quietly(edit("hold values", { ids, ...some, values: { [name]: value } }))} />)}
          {still > 0 && <Box color="dim" fontSize="11.5px" mt="4px">{still} of them have no colour of their own: they stay as they are.</Box>}
        </>
      )}
    </Section>
  );
}

/** Wheels with the same slots are one, whatever they are built into. */
function alike(kinds: ColoursOut["kinds"]): ColoursOut["kinds"] {
  const found = new Map<string, ColoursOut["kinds"][number]>();
  for (const kind of kinds.filter((one) => one.slots.length)) {
    const key = kind.slots.map((slot) => slot.name).join();
    const before = found.get(key);
    found.set(key, before ? { ...before, ids: [...before.ids, ...kind.ids] } : kind);
  }
  return [...found.values()];
}

/** A white by its temperature and how far off the white line: `4200`, `3200, -0.004`. */
async function white(given: Pick<EditArgs["set colour"], "ids" | "cells" | "prefer">, text: string): Promise<unknown> {
  const [kelvin, tint] = text.split(/[,;]\s*/).map((part) => Number(part.replace(/k$/i, "").trim()));
  if (kelvin === undefined || !Number.isFinite(kelvin) || (tint !== undefined && !Number.isFinite(tint))) throw new Error("Type kelvin, and a tint if you wish: 4200 or 3200, -0.004.");
  return edit("set colour", { ...given, kelvin, tint: tint ?? 0 }, { quiet: true });
}

/** A colour as the screen shows it. */
export const swatch = ([x, y]: readonly [number, number]): string => `rgb(${rgbOf({ x, y }).join(" ")})`;
