import { Box, Flex } from "@chakra-ui/react";
import { Action, Field, Level, Section } from "../../kit/controls";
import { bladesOf } from "../../show/blades";
import { toggleTool } from "../../show/cutting";
import { settings, useShow } from "../../show/document";
import { edit, gesture } from "../../show/edits";
import { length } from "../../show/format";
import { usePanes } from "../../show/panes";
import type { Thing } from "../../show/types";
import { GateFace } from "./GateFace";

/** Where the wheel begins of what is not held: degrees, metres. */
const [DRIVEN_DEG, SHARP_FROM_M] = [20, 8];
const LEVELS: [feature: string, label: string, attribute: RegExp, open: number][] = [
  ["iris", "Iris", /^Iris$/, 1],
  ["focus", "Focus", /^Focus1$/, 1],
  ["frost", "Frost", /^Frost\d$/, 0],
];

/** A lamp as it is typed. */
const lampText = (lamp: Thing<"fixture">["body"]["lamp"]): string =>
  ([[lamp?.power_w, "W"], [lamp?.flux_lm, "lm"], [lamp?.kelvin, "K"]] as const).flatMap(([value, unit]) => (value == null ? [] : [`${value} ${unit}`])).join(" ");

/** A focus that is set by its share is no longer sharp at a distance. */
const valuesOf = (feature: string, value: number): Record<string, number> => (feature === "focus" ? { focus: value, "sharp at": 0 } : { [feature]: value });

/** Zoom or lens tube, iris, focus, frost and blades: only what a selected type can do is offered, and who cannot is told. */
export function ShapeSection({ chosen }: { chosen: Thing<"fixture">[] }) {
  const types = useShow((state) => state.types);
  const bodies = useShow((state) => state.bodies);
  const tool = usePanes((state) => state.tool);
  const { system } = settings(useShow((state) => state.objects));
  const able = (attribute: RegExp) => chosen.filter((one) => types[one.body.type]?.modes.find((mode) => mode.name === one.body.mode)?.channels.some((channel) => attribute.test(channel.attribute)));
  const byHand = chosen.filter((one) => bodies.find((body) => body.type === one.body.type && body.mode === one.body.mode)?.by_hand);
  const zooms = able(/^Zoom$/);
  const bladed = chosen.filter((one) => bladesOf(one, bodies));
  const shown = LEVELS.map((level) => ({ level, who: able(level[2]) })).filter(({ who }) => who.length);
  if (!zooms.length && !byHand.length && !bladed.length && !shown.length) return null;
  const ids = (who: Thing<"fixture">[]) => who.map((one) => one.id);
  const few = (who: Thing<"fixture">[]) => (who.length < chosen.length ? ` (${who.length} of ${chosen.length})` : "");
  const hold = (who: Thing<"fixture">[], values: Record<string, number>) => edit("hold values", { ids: ids(who), values }, { quiet: true });
  const slider = (feature: string, label: string, who: Thing<"fixture">[], open: number) => (
    <Level
      key={`${feature} ${ids(who).join()}`} label={label + few(who)} value={who[0]?.body.hands?.[feature] ?? who[0]?.body.fixed?.[feature] ?? open}
      onMove={(value) => gesture("hold values", { ids: ids(who), values: valuesOf(feature, value) })} onChange={(value) => void hold(who, valuesOf(feature, value)).catch(() => undefined)}
    />
  );
  const zoom = zooms[0]?.body.hands?.zoom;
  const sharp = chosen.filter((one) => able(/^Focus1$/).includes(one) || (byHand.includes(one) && bladesOf(one, bodies)?.askew));
  const far = sharp[0]?.body.hands?.["sharp at"] ?? sharp[0]?.body.fixed?.["sharp at"];
  const lens = byHand[0]?.body.lens_deg;
  return (
    <Section title="Shape">
      {zooms.length > 0 && (
        <Field
          onNotches={(notches) => hold(zooms, { zoom: Math.max((zoom ?? DRIVEN_DEG) + notches, 1) })}
          label={`Zoom${few(zooms)}`} value={zoom === undefined ? "" : `${Number(zoom.toFixed(1))}°`} hint="degrees"
          onCommit={(text) => {
            const degrees = Number(text.replace("°", "").replace(",", "."));
            return Number.isFinite(degrees) && degrees > 0 ? hold(zooms, { zoom: degrees }) : Promise.reject(new Error("Type the field angle in degrees, such as 18."));
          }}
        />
      )}
      {byHand.length > 0 && <Field label={`Lens tube${few(byHand)}`} value={lens == null ? "" : `${Number(lens.toFixed(1))}°`} hint="its type's own" onCommit={(text) => edit("set field", { ids: ids(byHand), field: "lens", text }, { quiet: true })} />}
      {byHand.length > 0 && <Field label={`Lamp${few(byHand)}`} numeric={false} value={lampText(byHand[0]?.body.lamp)} hint="575 W 14000 lm 3050 K" onCommit={(text) => edit("set field", { ids: ids(byHand), field: "lamp", text }, { quiet: true })} />}
      {shown.map(({ level: [feature, label, , open], who }) => slider(feature, label, who, open))}
      {sharp.length > 0 && (
        <Flex gap="5px" align="flex-start">
          <Box flex="1" minWidth="0">
            <Field label={`Sharp at${few(sharp)}`} value={far ? length(far, system) : ""} hint="by the focus" onNotches={(notches) => edit("sharp at", { ids: ids(sharp), distance: `${Math.max((far ?? SHARP_FROM_M) + notches / 10, 0.5).toFixed(3)}m` }, { quiet: true })} onCommit={(text) => edit("sharp at", { ids: ids(sharp), distance: text }, { quiet: true })} />
          </Box>
          <Action height="28px" look={tool === "sharp" ? "on" : "plain"} aria-pressed={tool === "sharp"} title="Click the place on the stage where the gates are to be sharp" onClick={() => toggleTool("sharp")}>
            Pick
          </Action>
        </Flex>
      )}
      {bladed.length > 0 && <GateFace key={ids(bladed).join()} bladed={bladed} few={few(bladed)} />}
    </Section>
  );
}
