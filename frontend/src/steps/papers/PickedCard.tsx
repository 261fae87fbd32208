import { Box, Flex } from "@chakra-ui/react";
import { Action, Choice, Field, NumberField, Section } from "../../kit/controls";
import { called, settings, thing, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { coordinate, metresOf, shortLength, type System } from "../../show/format";
import { LOOKS, type Picked, removePicked, usePapers } from "../../show/papers";
import type { EditArgs, Thing } from "../../show/types";
import { Tick } from "./SheetFields";

type ViewBody = NonNullable<Thing<"sheet">["body"]["views"]>[number];
const back = (): void => usePapers.setState({ picked: null });

/** What is picked on the sheet. */
export function PickedCard({ sheet, picked }: { sheet: Thing<"sheet">; picked: Picked }) {
  const view = sheet.body.views?.find((one) => one.key === picked.view);
  const words = sheet.body.words?.find((one) => one.key === picked.key);
  return (
    <>
      <Flex px="16px" pt="8px"><Action look="quiet" height="24px" ml="-6px" onClick={back}>Back to the sheet</Action></Flex>
      {picked.sort === "view" && view && <ViewFields sheet={sheet} view={view} />}
      {picked.sort === "label" && view && <LabelFields sheet={sheet} view={view} fixture={picked.key} />}
      {picked.sort === "dimension" && view && <DimensionFields sheet={sheet} view={view} dimension={picked.key} />}
      {picked.sort === "words" && words && (
        <Section title="Words">
          <Field label="They say" value={words.text} numeric={false} onCommit={(text) => edit("write on sheet", { id: sheet.id, words: words.key, text })} />
          <NumberField label="Height, mm" value={words.size_mm ?? 2.5} onNumber={(size_mm) => edit("write on sheet", { id: sheet.id, words: words.key, size_mm })} />
          <Action onClick={removePicked}>Take them off</Action>
        </Section>
      )}
    </>
  );
}

/** What of a view's plane is shown, as four lengths: left, low, right, high; nothing typed: the rig. */
function shown(text: string, system: System): Partial<EditArgs["set view"]> {
  if (!text.trim()) return { again: ["region"] };
  const edges = text.split(",").map((part) => metresOf(part, system));
  if (edges.length !== 4 || edges.some((edge) => edge === null)) throw new Error("Type four lengths: left, low, right, high, such as -6, -2, 6, 9; nothing for the rig.");
  return { region: edges as [number, number, number, number] };
}

const CUTS: Partial<Record<string, "x" | "y" | "z">> = { plan: "z", below: "z", front: "y", back: "y", left: "x", right: "x", section: "x" };

function ViewFields({ sheet, view }: { sheet: Thing<"sheet">; view: ViewBody }) {
  const objects = useShow((state) => state.objects);
  const drawn = usePapers((state) => state.drawn[sheet.id]?.views.find((one) => one.key === view.key));
  const { system } = settings(objects);
  const set = (values: Partial<EditArgs["set view"]>) => edit("set view", { id: sheet.id, view: view.key, ...values });
  const quietly = (values: Partial<EditArgs["set view"]>) => void set(values).catch(() => undefined);
  const look = view.look ?? "plan";
  const axis = CUTS[look];
  const byHand = Object.keys(view.labels ?? {}).length;
  const of = (view.of ?? []).map((id) => called(objects[id]) || "what is gone");
  return (
    <>
      <Section title="The view">
        {of.length > 0 && <Box fontSize="12px" color="dim" mb="6px">{of.join(", ")} alone</Box>}
        <Field label="Named" value={view.name ?? ""} hint={LOOKS.find((one) => one.value === look)?.label} numeric={false} onCommit={(name) => set({ name })} />
        <Choice label="Seen" value={look} options={LOOKS} onChange={(seen) => quietly({ look: seen })} />
        <Field label="Scale" value={view.scale ? (drawn?.scale_text ?? `1:${view.scale}`) : ""} hint={drawn ? `fits at ${drawn.scale_text}` : "what fits"} onCommit={(scale) => set({ scale })} />
        {axis && <Field label="Cut at" value={view.cut_m == null ? "" : coordinate(view.cut_m, axis, system)} hint={look === "plan" && !of.length ? "3 m up" : look === "section" ? "the centre line" : "nowhere"} onCommit={(cut) => set({ cut })} />}
        <Field label="Part shown" value={(view.region ?? []).map((edge) => shortLength(edge, system)).join(", ")} hint="all of the rig" onCommit={async (text) => set(shown(text, system))} />
        <Choice label="Labelled" value={view.style ?? ""} options={[{ value: "", label: "as such views are" }, ...things(objects, "label style").map((one) => ({ value: one.id, label: called(one) }))]} onChange={(style) => quietly({ style })} />
        <Tick label="Set and venue" on={view.site ?? true} onChange={(site) => quietly({ site })} />
        <Tick label="People" on={view.people ?? true} onChange={(people) => quietly({ people })} />
        <Flex gap="6px" wrap="wrap" mt="4px">
          {view.at && <Action height="24px" onClick={() => quietly({ again: ["at"] })}>Where there is room</Action>}
          {byHand > 0 && <Action height="24px" onClick={() => quietly({ again: ["labels"] })}>Labels by themselves ({byHand})</Action>}
          <Action look="quiet" height="24px" onClick={removePicked}>Take it off</Action>
        </Flex>
      </Section>
      <Measured sheet={sheet} view={view} />
    </>
  );
}

const SORTS = [
  { value: "rail", label: "along, to each clamp" },
  { value: "centre", label: "from the centre line" },
  { value: "trim", label: "heights of its ends" },
] as const;
const SAID = { rail: "Along", centre: "From the centre line", trim: "Heights of", free: "Between two places" } as const;

/** Dimensions of a view: of one structure, or of all that it shows. */
function Measured({ sheet, view }: { sheet: Thing<"sheet">; view: ViewBody }) {
  const objects = useShow((state) => state.objects);
  const structures = things(objects, "truss").filter((one) => !view.of?.length || view.of.includes(one.id) || view.of.includes(one.parent ?? ""));
  const add = (sort: string) => {
    if (sort) void edit("add dimension", { id: sheet.id, view: view.key, sort: sort as "rail", structures: structures.map((one) => one.id) }).catch(() => undefined);
  };
  return (
    <Section title="Dimensions">
      <Choice label="Show" value="" options={[{ value: "", label: "choose what is measured" }, ...SORTS]} onChange={add} />
      {(view.dimensions ?? []).map((one) => (
        <Flex key={one.key} fontSize="12px" align="center" gap="6px">
          <Box flex="1" minWidth="0" truncate>{SAID[one.kind]} {one.structure ? called(objects[one.structure]) || "what is gone" : ""}</Box>
          <Action look="quiet" height="22px" aria-label={`Change the dimension ${one.key}`} onClick={() => usePapers.setState({ picked: { sort: "dimension", view: view.key, key: one.key } })}>Change</Action>
        </Flex>
      ))}
    </Section>
  );
}

function DimensionFields({ sheet, view, dimension }: { sheet: Thing<"sheet">; view: ViewBody; dimension: string }) {
  const objects = useShow((state) => state.objects);
  const one = view.dimensions?.find((each) => each.key === dimension);
  if (!one) return null;
  return (
    <Section title="Dimension">
      <Box fontSize="12.5px" mb="6px">{SAID[one.kind]} {one.structure ? called(objects[one.structure]) : ""}</Box>
      <NumberField label="Further, mm" value={one.off_mm ?? 0} signs="own" onNumber={(off_mm) => edit("set dimension", { id: sheet.id, view: view.key, dimension, off_mm })} />
      <Action onClick={removePicked}>Take the dimension out</Action>
    </Section>
  );
}

function LabelFields({ sheet, view, fixture }: { sheet: Thing<"sheet">; view: ViewBody; fixture: string }) {
  const objects = useShow((state) => state.objects);
  const types = useShow((state) => state.types);
  const one = thing(objects, fixture, "fixture");
  const at = view.labels?.[fixture];
  return (
    <Section title="Label">
      <Box fontSize="12.5px" fontWeight={600}>Fixture {called(one)}</Box>
      <Box fontSize="12px" color="dim" mb="8px">{one ? types[one.body.type]?.name : "It is gone"}{at ? ", put by hand" : ", where there is room"}</Box>
      {at ? <Action onClick={() => void edit("put label", { id: sheet.id, view: view.key, fixture, at: null }).catch(() => undefined)}>Where there is room again</Action> : <Box fontSize="12px" color="dim">Drag it on the sheet to put it elsewhere.</Box>}
    </Section>
  );
}
