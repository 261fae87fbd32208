import { useState } from "react";
import { settings, useShow } from "./document";
import { edit, leaveGhost, preview } from "./edits";
import { Action, Choice, Field, type Signed } from "../kit/controls";
import { sentText } from "../kit/signs";
import { choices } from "../kinds";
import { angle, coordinate, degreesOf, length, metresOf, type System } from "./format";

type Values = Record<string, unknown> & { position?: [number, number, number]; hang?: Record<string, unknown> | null };
interface FieldLine {
  field: string;
  label: string;
  /** What it holds, in metres or degrees, and what of; none: what has no sign. */
  holds?: { of: "length" | "angle"; at: (body: Values) => number; axis?: "x" | "y" | "z" };
  show: (body: Values, system: System) => string;
  text?: boolean;
  options?: readonly string[];
  only?: (body: Values) => boolean;
  /** One of two ends: shown where they differ, or when it is asked. */
  ends?: boolean;
}

const number = (value: unknown): number => (typeof value === "number" ? value : 0);
/** A line that holds a length or an angle; nothing is shown where there is none of it. */
const measured = (of: "length" | "angle", field: string, label: string, at: (body: Values) => number, is: (body: Values) => unknown = () => true): FieldLine => ({
  field, label, holds: { of, at }, show: (body, system) => (is(body) ? (of === "length" ? length(at(body), system) : angle(at(body))) : ""),
});
const metres = (field: string, label: string, key: string): FieldLine => measured("length", field, label, (body) => number(body[key]));
const degrees = (field: string, label: string, key: string): FieldLine => measured("angle", field, label, (body) => number(body[key]));
const placed = (axis: "x" | "y" | "z", label: string, at: (body: Values) => number, is: (body: Values) => unknown = () => true): FieldLine => ({
  field: axis, label, holds: { of: "length", at, axis }, show: (body, system) => (is(body) ? coordinate(at(body), axis, system) : ""),
});
const place = (axis: "x" | "y" | "z", label: string): FieldLine => placed(axis, label, (body) => body.position?.["xyz".indexOf(axis)] ?? 0);
const plain = (field: string, label: string, key: string): FieldLine => ({ field, label, show: (body) => String(number(body[key])) });
const faced: FieldLine = { field: "finish", label: "Faced with", options: choices("deck", "finish"), show: (body) => String(body.finish ?? "") };
const words = (field: string, label: string): FieldLine => ({ field, label, text: true, show: (body) => String(body[field] ?? "") });

/** The height of a raked truss at its start (-1) or end (+1). */
function trim(end: -1 | 1): (body: Values) => number {
  return (body) => (body.position?.[2] ?? 0) + end * Math.sin((number(body.rake_deg) * Math.PI) / 180) * (number(body.form === "arc" ? body.diameter_m : body.length_m) / 2);
}

const free = (body: Values): [number, number, number] | undefined => (body.placement as { position?: [number, number, number] } | null)?.position;

/** Turns about X, Y, Z of the show in degrees, as R = Rz Ry Rx (core/edits/fields.py). */
function anglesOf(body: Values): number[] {
  const [x, y, z, w] = (body.placement as { rotation?: number[] } | null)?.rotation ?? [0, 0, 0, 1];
  const [a, b, c, d] = [x ?? 0, y ?? 0, z ?? 0, w ?? 1];
  const tilt = Math.asin(Math.min(Math.max(2 * (d * b - c * a), -1), 1));
  if (Math.abs(Math.cos(tilt)) < 1e-7) return [2 * Math.atan2(a, d), tilt, 0].map((value) => (value * 180) / Math.PI);
  return [Math.atan2(2 * (d * a + b * c), 1 - 2 * (a * a + b * b)), tilt, Math.atan2(2 * (d * c + a * b), 1 - 2 * (b * b + c * c))].map((value) => (value * 180) / Math.PI);
}

/** What of how it hangs. */
const hangs = (key: string) => (body: Values): number => number(body.hang?.[key]);

/** How a line reads signs, over these things. */
function signedAs({ holds }: FieldLine, bodies: Values[], system: System): Signed | undefined {
  if (!holds) return undefined;
  const { of, at, axis } = holds;
  const values = new Set(bodies.map(at));
  return {
    signs: of === "length" ? "adds" : "own",
    base: values.size === 1 ? [...values][0] : undefined,
    read: (text) => (of === "length" ? metresOf(text, system) : degreesOf(text)),
    shown: (value) => (of === "angle" ? angle(value) : axis && axis !== "z" && value < 0 ? coordinate(value, axis, system) : length(value, system)),
  };
}

/** What a laser draws and where; one that nobody has told anything is as usual. */
const laserOf = (body: Values): Record<string, unknown> => (body.laser as Record<string, unknown> | null) ?? {};
const zoneOf = (body: Values): Record<string, unknown> => (laserOf(body).zone as Record<string, unknown> | undefined) ?? {};
const zoned = (field: string, label: string, key: string, usual: number): FieldLine => measured("angle", field, label, (body) => number(zoneOf(body)[key] ?? usual));
const percent = (field: string, label: string, key: string, usual: number): FieldLine => ({ field, label, show: (body) => String(Number((number(zoneOf(body)[key] ?? usual) * 100).toFixed(2))) });

const PLACE = [place("x", "SL / SR"), place("y", "US / DS")];
const LINES: Record<string, FieldLine[]> = {
  venue: [
    words("name", "Name"), metres("width", "Width", "width_m"), metres("upstage", "Upstage wall", "upstage_m"),
    metres("downstage", "House wall", "downstage_m"), { ...placed("x", "Its middle", (body) => number(body.centre_m)), field: "centre" }, metres("eave", "Eave", "eave_m"), metres("ridge", "Ridge", "ridge_m"),
  ],
  deck: [
    words("name", "Name"), ...PLACE, place("z", "Stands at"), metres("width", "Width", "width_m"), metres("depth", "Depth", "depth_m"),
    metres("height", "Height", "height_m"), degrees("turn", "Turn", "turn_deg"), faced,
    { ...plain("count", "Steps", "count"), only: (body) => body.made === "steps" }, { ...degrees("rise", "Rises to", "rise_deg"), only: (body) => body.made === "steps" || body.made === "ramp" },
  ],
  panel: [words("name", "Name"), ...PLACE, place("z", "Stands at"), metres("thickness", "Thickness", "thickness_m"), degrees("turn", "Turn", "turn_deg"), faced],
  truss: [
    words("name", "Name"), ...PLACE, { ...metres("length", "Length", "length_m"), only: (body) => body.form !== "arc" },
    { ...metres("diameter", "Diameter", "diameter_m"), only: (body) => body.form === "arc" },
    { ...degrees("span", "Span", "span_deg"), only: (body) => body.form === "arc" },
    { ...measured("length", "trim", "Trim", (body) => body.position?.[2] ?? 0), only: (body) => body.form !== "upright" },
    { ...measured("length", "start trim", "Trim, start", trim(-1)), only: (body) => body.form !== "upright", ends: true },
    { ...measured("length", "end trim", "Trim, end", trim(1)), only: (body) => body.form !== "upright", ends: true },
    { ...place("z", "Foot at"), only: (body) => body.form === "upright" },
    { ...plain("arms", "Arms", "arms"), only: (body) => body.form === "upright" },
    { ...metres("arm", "Arm", "arm_m"), only: (body) => body.form === "upright" },
    degrees("turn", "Turn", "turn_deg"), { ...metres("section", "Section", "section_m"), only: (body) => body.lattice !== "pipe" },
    plain("kg per m", "kg per m", "kg_per_m"),
    { ...plain("hoists", "Points", "hoists"), only: (body) => body.form !== "upright" },
    { ...metres("bridle", "Bridle", "bridle_m"), only: (body) => number(body.hoists) > 0 }, { ...metres("steel", "Steel at", "steel_m"), only: (body) => number(body.hoists) > 0 },
  ],
  wall: [words("name", "Name"), place("z", "Stands at"), metres("height", "Height", "height_m"), metres("thickness", "Thickness", "thickness_m"), faced],
  mesh: [words("name", "Name"), ...PLACE, place("z", "Stands at"), degrees("turn", "Turn", "turn_deg"), plain("scale", "Scale", "scale"), plain("reflectance", "Gives back", "reflectance")],
  piece: [
    words("name", "Name"), ...PLACE, place("z", "Stands at"), metres("width", "Width", "width_m"), metres("depth", "Depth", "depth_m"), metres("height", "Height", "height_m"), degrees("turn", "Turn", "turn_deg"), faced,
    { ...plain("count", "How many", "count"), only: (body) => body.piece === "steps" || body.piece === "barrier" },
    { ...plain("fullness", "Fullness", "fullness"), only: (body) => body.piece === "drape" }, { ...metres("lift", "Lower edge", "lift_m"), only: (body) => body.piece === "screen" },
  ],
  crowd: [
    words("name", "Name"), metres("z", "Stands at", "z_m"), { field: "people", label: "People", show: (body) => (body.count == null ? "" : String(body.count)) },
    { ...plain("per m2", "Per m²", "per_m2"), only: (body) => body.seating !== "rows" },
    { ...measured("length", "apart", "Apart", (body) => 2 * number(body.body_radius_m)), only: (body) => body.seating !== "rows" }, { ...metres("pitch", "Apart", "pitch_m"), only: (body) => body.seating === "rows" },
    { ...metres("row", "Row to row", "row_m"), only: (body) => body.seating === "rows" }, { ...metres("rise", "Rise a row", "rise_m"), only: (body) => body.seating === "rows" },
    plain("seed", "Dice", "seed"), metres("height", "Body height", "height_m"),
  ],
  figure: [words("name", "Name"), ...PLACE, place("z", "Stands at"), metres("height", "Height", "height_m"), degrees("turn", "Turn", "turn_deg")],
  viewpoint: [words("name", "Name")],
  look: [plain("number", "Number", "number"), words("name", "Name"), words("note", "Note")],
  order: [words("name", "Name")],
  fixture: [
    measured("length", "along", "Along the rail", hangs("along_m"), (body) => body.hang),
    measured("angle", "about rail", "About the rail", hangs("turn_deg"), (body) => body.hang),
    measured("length", "out", "Arm out by", hangs("out_m"), (body) => body.hang),
    measured("length", "drop", "Drop pipe", hangs("drop_m"), (body) => body.hang),
    ...(["x", "y", "z"] as const).map((axis) => placed(axis, { x: "SL / SR", y: "US / DS", z: "Height" }[axis], (body) => free(body)?.["xyz".indexOf(axis)] ?? 0, (body) => !body.hang)),
    ...(["x", "y", "z"] as const).map((axis, i) => measured("angle", `turn ${axis}`, `About ${["SL", "US", "up"][i]}`, (body) => anglesOf(body)[i] ?? 0, (body) => !body.hang)),
    measured("angle", "spin", "Turn", hangs("spin_deg"), (body) => body.hang),
    words("purpose", "For"), words("note", "Note"), words("circuit", "Circuit"), { field: "dimmer", label: "Dimmer", text: true, show: (body) => (body.dimmer == null ? "" : String(number(body.dimmer))) },
  ],
  laser: [
    { ...plain("feed", "Feed", "feed"), text: true, show: (body) => (laserOf(body).feed == null ? "" : String(laserOf(body).feed)) },
    { ...plain("scan rate", "Points, kpps", ""), show: (body) => String(laserOf(body).rate_kpps ?? 30) },
  ],
  zone: [zoned("zone width", "Width", "width_deg", 40), zoned("zone height", "Height", "height_deg", 20), zoned("zone across", "To the right", "across_deg", 0), zoned("zone up", "Up", "up_deg", 0), zoned("zone turn", "Turned", "turn_deg", 0),
    { field: "zone mirror", label: "Mirrored", options: choices("fixture", "zone mirror"), show: (body) => String(zoneOf(body).mirror ?? "none") }],
  "zone limits": [percent("keystone across", "Keystone across %", "keystone_across", 0), percent("keystone up", "Keystone up %", "keystone_up", 0), percent("limit left", "Left limit %", "left", -1), percent("limit right", "Right limit %", "right", 1),
    percent("limit bottom", "Bottom limit %", "bottom", -1), percent("limit top", "Top limit %", "top", 1)],
  carrier: [words("name", "Name"), { field: "number", label: "Its number", text: true, show: (body) => (body.number == null ? "" : String(number(body.number))) }, ...PLACE, place("z", "Height"), degrees("turn", "Turn", "turn_deg")],
};

/** The values of what is selected, all of one kind. They take units, `+1.5`, and `-4.2 to 7` over several. */
export function BodyFields({ ids, of }: { ids: string[]; /** Other lines than those of its kind. */ of?: string }) {
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  const rows = ids.flatMap((id) => objects[id] ?? []);
  const kind = rows[0]?.kind;
  const [asked, setAsked] = useState("");
  if (!kind || rows.some((row) => row.kind !== kind)) return null;
  const lines = (LINES[of ?? kind] ?? []).filter((line) => !line.only || rows.every((row) => line.only?.(row.body as Values)));
  const raked = rows.some((row) => Math.abs(number((row.body as Values).rake_deg)) > 1e-6);
  // Two ends that were shown stay, also where both come to one height.
  if (raked && asked !== ids.join()) setAsked(ids.join());
  const ends = raked || asked === ids.join();
  return (
    <>
      {lines.some((line) => line.ends) && !ends && (
        <Action look="quiet" height="22px" mb="4px" onClick={() => setAsked(ids.join())}>Rake it: two ends</Action>
      )}
      {lines.filter((line) => !line.ends || ends).map((line) => {
        const shown = new Set(rows.map((row) => line.show(row.body as Values, system)));
        if (shown.size === 1 && shown.has("") && !line.text) return null;
        if (line.options) {
          const several = shown.size > 1 ? [{ value: "", label: "several values" }] : [];
          const change = (text: string) => void edit("set field", { ids, field: line.field, text }, { quiet: true }).catch(() => undefined);
          return <Choice key={line.field} label={line.label} value={several.length ? "" : ([...shown][0] ?? "")} options={[...several, ...line.options]} onChange={change} />;
        }
        const signed = signedAs(line, rows.map((row) => row.body as Values), system);
        const sent = (text: string, emptied: boolean) => (signed ? sentText(text, signed.signs, emptied) : text);
        return (
          <Field
            key={`${ids.join()} ${line.field}`}
            label={line.label}
            numeric={!line.text}
            signed={signed}
            value={shown.size === 1 ? ([...shown][0] ?? "") : ""}
            hint={shown.size > 1 ? "several values" : undefined}
            onType={(text, emptied) => {
              // The ghost shows what the typed value comes to; what cannot be read yet shows none.
              if (!line.text) void preview("set field", { ids, field: line.field, text: sent(text, emptied) }).catch(() => undefined);
            }}
            onLeave={leaveGhost}
            onCommit={(text, emptied) => edit("set field", { ids, field: line.field, text: sent(text, emptied) }, { quiet: true }).finally(leaveGhost)}
          />
        );
      })}
    </>
  );
}
