import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Input, Section, Segments, Sign } from "../../kit/controls";
import { settings, thing, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { editAtLength } from "../../show/jobs";
import { lookName, looksInOrder } from "../../show/looks";
import { askAgain, DRIVEN, freshMap, toggleAsk, useReview } from "../../show/review";
import { select } from "../../show/selection";
import { type Thing } from "../../show/types";
import { useForm } from "../../show/useForm";
import { usePanes } from "../../show/panes";
import { lux, measuredIn } from "./Light";

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** Light as numbers: an area and its figures, and who lights a place. */
export function LightCard() {
  const objects = useShow((state) => state.objects);
  const { area } = useReview();
  const chosen = thing(objects, area, "area");
  return (
    <>
      {chosen ? <AreaCard key={chosen.id} area={chosen} /> : <AddArea />}
      <WhoLights />
      {chosen && <AddArea folded />}
    </>
  );
}

/** In which look light is measured or asked for. */
function LookChoice({ label }: { label: string }) {
  const objects = useShow((state) => state.objects);
  const { look } = useReview();
  const options = [{ value: DRIVEN, label: "as it is driven" }, ...looksInOrder(objects).map((one) => ({ value: one.id, label: lookName(one) }))];
  return <Choice label={label} value={look || DRIVEN} options={options} onChange={(value) => useReview.setState({ look: value, map: null })} />;
}

function AreaCard({ area }: { area: Thing<"area"> }) {
  const objects = useShow((state) => state.objects);
  useShow((state) => state.stand);
  const { look, map, paints, numbers } = useReview();
  const [working, setWorking] = useState(false);
  const [more, setMore] = useState(false);
  const at = look || DRIVEN;
  const kept = area.body.maps?.[at];
  const old = kept !== undefined && !freshMap(at, kept.made_of);
  const olds = Object.entries(area.body.maps ?? {}).filter(([key, one]) => key !== DRIVEN && objects[key] && !freshMap(key, one.made_of)).map(([key]) => key);
  const measure = (looks: string[]) => {
    setWorking(true);
    void editAtLength("measure light", { ids: [area.id], looks })
      .then(() => useReview.setState({ look: looks.length === 1 ? (looks[0] ?? "") : at }), () => undefined)
      .finally(() => setWorking(false));
  };
  return (
    <Section>
      <Box as="h2" fontSize="15px" fontWeight={600} mb="6px">
        {area.body.name}
      </Box>
      <LookChoice label="Look" />
      <Action look="main" disabled={working} onClick={() => measure([at])}>
        {working ? "Measuring" : kept ? "Measure it again" : "Measure the light"}
      </Action>
      {kept && (
        <Box mt="8px" fontSize="12px">
          <Figures lines={[["Mean", `${lux(kept.mean)} lx`], ["Least", `${lux(kept.least)} lx`], ["Most", `${lux(kept.most)} lx`], ["Evenness (least / mean)", (kept.mean > 0 ? kept.least / kept.mean : 0).toFixed(2)]]} />
          {old && <Sign tone="attention">Something has changed since: this is of before.</Sign>}
          <Box mt="8px">
            <Segments name="What is painted" value={paints} options={[{ value: "lux", label: "lux" }, { value: "cct", label: "Colour in K" }]} onChange={(value) => useReview.setState({ paints: value })} />
          </Box>
          {map && paints === "lux" && <Scale colours={map.colours} most={map.most} />}
          <chakra.label display="flex" gap="6px" alignItems="center" mt="4px">
            <input type="checkbox" checked={numbers} onChange={(event) => useReview.setState({ numbers: event.target.checked })} />
            Numbers on the points
          </chakra.label>
        </Box>
      )}
      {olds.length > 1 && (
        <Action mt="6px" height="24px" disabled={working} onClick={() => measure(olds)}>
          Measure {olds.length} looks of before again
        </Action>
      )}
      <Flex mt="6px" gap="4px" wrap="wrap">
        <Action look="quiet" height="24px" aria-expanded={more} onClick={() => setMore(!more)}>{more ? "Less" : "Where, and what is wanted"}</Action>
        <Action look="quiet" height="24px" onClick={() => quietly(edit("remove", { ids: [area.id] }).then(() => useReview.setState({ area: "", map: null })))}>Remove {area.body.name}</Action>
      </Flex>
      {more && <AreaForm area={area} />}
    </Section>
  );
}

function Figures({ lines }: { lines: readonly (readonly [string, string])[] }) {
  return (
    <Box as="dl" m="0">
      {lines.map(([name, value]) => (
        <Flex key={name} justify="space-between">
          <Box as="dt" color="dim">{name}</Box>
          <Box as="dd" m="0" fontFamily="mono">{value}</Box>
        </Flex>
      ))}
    </Box>
  );
}

/** False colours from nothing to the most, with numbers below. */
export function Scale({ colours, most }: { colours: readonly string[]; most: number }) {
  return (
    <Box aria-label={`False colours from 0 to ${lux(most)} lux`} role="img" mb="4px">
      <Box height="10px" borderRadius="2px" style={{ background: `linear-gradient(to right, ${colours.join(", ")})` }} />
      <Flex justify="space-between" fontFamily="mono" fontSize="10.5px" color="dim">
        <Box>0</Box>
        <Box>{lux(most / 2)}</Box>
        <Box>{lux(most)} lx</Box>
      </Flex>
    </Box>
  );
}

/** All that is typed of an area. */
function AreaForm({ area }: { area: Thing<"area"> }) {
  const objects = useShow((state) => state.objects);
  const { body } = area;
  const looks = looksInOrder(objects);
  const { system } = settings(objects);
  const unit = system === "imperial" ? " ft" : " m";
  const per = system === "imperial" ? 0.3048 : 1;
  const say = (metres: number) => `${Number((metres / per).toFixed(3))}${unit}`;
  const form = useForm({
    name: body.name, x: say(body.position[0]), y: say(body.position[1]), z: say(body.position[2]), width: say(body.width_m), depth: say(body.depth_m), turn: String(body.turn_deg ?? 0),
    points: (body.points ?? [24, 16]).join("x"), wanted: body.wanted_lx == null ? "" : `${body.wanted_lx} lx`, tolerance: String(body.tolerance ?? 20),
  });
  const viewpoints = things(objects, "viewpoint");
  const towards = viewpoints.find((one) => one.body.eye.every((value, i) => Math.abs(value - ((body.towards ?? [0, 0, 0])[i] ?? 0)) < 1e-6))?.id ?? "";
  const wantedIn = body.wanted_in ?? [];
  const field = (name: keyof typeof form.texts, label: string) => <Input label={label} value={form.texts[name]} onChange={(text) => form.put(name, text)} wrong={form.wrongAt(name)} />;
  return (
    <Box mt="8px">
      {field("name", "Name")}
      {field("wanted", "Wanted (lx or fc)")}
      {field("tolerance", "± in 100")}
      <Choice
        label="Wanted in" value="" options={[{ value: "", label: wantedIn.length ? wantedIn.map((id) => thing(objects, id, "look")?.body.number ?? "?").join(", ") : "every look measured" }, ...looks.map((one) => ({ value: one.id, label: `${wantedIn.includes(one.id) ? "✓ " : ""}${lookName(one)}` }))]}
        onChange={(id) => id && quietly(edit("set area", { id: area.id, wanted_in: wantedIn.includes(id) ? wantedIn.filter((one) => one !== id) : [...wantedIn, id] }))}
      />
      <Choice label="Faces" value={body.faces ?? "up"} options={[{ value: "up", label: "level" }, { value: "towards", label: "upright, towards a place" }]} onChange={(faces) => quietly(edit("set area", { id: area.id, faces }))} />
      {body.faces === "towards" && <Choice label="Towards" value={towards} options={[...(towards ? [] : [{ value: "", label: "a place of its own" }]), ...viewpoints.map((one) => ({ value: one.id, label: one.body.name }))]} onChange={(id) => id && quietly(edit("set area", { id: area.id, towards: id }))} />}
      <chakra.label display="flex" gap="6px" alignItems="center" fontSize="12px" mb="6px">
        <input type="checkbox" checked={body.people === true} onChange={(event) => quietly(edit("set area", { id: area.id, people: event.target.checked }))} />
        People stand in its light
      </chakra.label>
      {(["x", "y", "z"] as const).map((axis) => <Box key={axis}>{field(axis, { x: "Middle SL / SR", y: "Middle US / DS", z: "Height" }[axis])}</Box>)}
      {field("width", "Width")}
      {field("depth", "Depth")}
      {field("turn", "Turned")}
      {field("points", "Points")}
      <Action onClick={() => quietly(form.attempt(() => edit("set area", { id: area.id, ...form.texts })))}>Set these</Action>
    </Box>
  );
}

/** Add an area: on a deck, level or upright. */
function AddArea({ folded = false }: { folded?: boolean }) {
  const objects = useShow((state) => state.objects);
  const decks = things(objects, "deck");
  const viewpoints = things(objects, "viewpoint");
  const largest = [...decks].sort((a, b) => (b.body.width_m ?? 0) * (b.body.depth_m ?? 0) - (a.body.width_m ?? 0) * (a.body.depth_m ?? 0))[0]?.id ?? "";
  const [open, setOpen] = useState(!folded);
  const [deck, setDeck] = useState(largest);
  const [faces, setFaces] = useState<"up" | "towards">("up");
  const [towards, setTowards] = useState("");
  const add = () =>
    quietly(
      edit("add area", { ...(deck && { deck }), faces, ...(faces === "towards" && towards && { towards }) }).then((made) => useReview.setState({ area: made.select?.[0] ?? "", map: null })),
    );
  return (
    <Section title={folded ? "Another area" : "Measure light"}>
      {!open ? (
        <Action look="quiet" height="24px" onClick={() => setOpen(true)}>Add another area</Action>
      ) : (
        <>
          <Choice label="On" value={deck} options={[...decks.map((one) => ({ value: one.id, label: one.body.name })), { value: "", label: "a rectangle of its own" }]} onChange={setDeck} />
          <Choice label="Faces lie" value={faces} options={[{ value: "up", label: "level, on the deck" }, { value: "towards", label: "upright, 1.6 m above it" }]} onChange={setFaces} />
          {faces === "towards" && <Choice label="Looking at" value={towards} options={[{ value: "", label: "the house" }, ...viewpoints.map((one) => ({ value: one.id, label: one.body.name }))]} onChange={setTowards} />}
          <Action look={folded ? undefined : "main"} onClick={add}>Add this area</Action>
        </>
      )}
    </Section>
  );
}

/** Who lights a place that is clicked: strongest first, outlined on the stage. */
function WhoLights() {
  const objects = useShow((state) => state.objects);
  const { asks, lit, look } = useReview();
  const inHand = usePanes((state) => state.tool === "ask") && asks === "light";
  const parts = lit?.parts ?? [];
  const name = (id: string) => String(thing(objects, id, "fixture")?.body.number ?? "–");
  return (
    <Section title="Who lights a place">
      <Action width="100%" aria-pressed={inHand} onClick={() => toggleAsk("light")}>
        {inHand ? "Click it in the picture" : "Click a place"}
      </Action>
      {lit && (
        <Box mt="8px" fontSize="12px">
          <Flex justify="space-between" mb="4px">
            <Box>{look && look !== DRIVEN ? measuredIn(objects, look) : "as it is driven"}</Box>
            <Box fontFamily="mono">{lux(lit.lux)} lx{lit.cct_k == null || lit.cct_k > 20000 ? "" : `, ${Math.round(lit.cct_k / 10) * 10} K`}</Box>
          </Flex>
          <Action look="quiet" height="22px" onClick={() => select([...new Set(parts.filter((part) => part.lux > 0).map((part) => part.fixture))])}>
            Select {many(new Set(parts.filter((part) => part.lux > 0).map((part) => part.fixture)).size, "fixture")}
          </Action>
          <Action look="quiet" height="22px" onClick={askAgain}>Ask again</Action>
          <Box as="ol" m="0" p="0" listStyleType="none" maxHeight="200px" overflowY="auto" tabIndex={0} aria-label="Who lights it">
            {parts.slice(0, 40).map((part) => (
              <Flex as="li" key={`${part.fixture}/${part.cell}`} gap="6px" color={part.blocked_by === null ? undefined : "dim"}>
                <chakra.button type="button" width="34px" textAlign="left" fontFamily="mono" cursor="pointer" color="brass" onClick={() => select([part.fixture])}>{name(part.fixture)}{part.cell > 1 ? `.${part.cell}` : ""}</chakra.button>
                <Box flex="1" truncate>{part.blocked_by === null ? height(part.direction) : `hidden by ${part.blocked_by}`}</Box>
                <Box fontFamily="mono">{lux(part.lux)} lx</Box>
                <Box fontFamily="mono" width="40px" textAlign="right">{Math.round(part.share * 100)} %</Box>
              </Flex>
            ))}
          </Box>
        </Box>
      )}
    </Section>
  );
}

/** From where light comes, as the trade says it: from the front, the back, a side, from above; and how steep. */
export function height([x, y, z]: readonly number[]): string {
  const level = Math.hypot(x ?? 0, y ?? 0);
  const steep = Math.round((Math.atan2(-(z ?? 0), level) * 180) / Math.PI);
  if (steep > 75) return "from above";
  const side = Math.abs(x ?? 0) > Math.abs(y ?? 0) ? ((x ?? 0) > 0 ? "from SR" : "from SL") : (y ?? 0) > 0 ? "from DS" : "from US";
  return `${side}, ${steep}°`;
}
