import { Box } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { choices } from "../../kinds";
import { Action, Choice, Foot, Input, Section, Segments, Sign } from "../../kit/controls";
import { ArrangeGuide } from "../../show/ArrangeGuide";
import { useArrange } from "../../show/arranging";
import { BodyFields } from "../../show/BodyFields";
import { CardHead, Readiness } from "../../show/CardHead";
import { leaveDrawing, outlineNow, useDrawing } from "../../show/drawing";
import { settings, useShow } from "../../show/document";
import { edit, leaveGhost, useGhost } from "../../show/edits";
import { many } from "../../show/format";
import { useSelection } from "../../show/selection";
import type { EditArgs } from "../../show/types";
import { usePreview } from "../../show/usePreview";
import { usuals } from "../../show/usual";
import { useForm } from "../../show/useForm";
import { areaOf } from "../../stage/tools/draw";
import { Arrange } from "./Arrange";
import { BaseDrawing } from "./BaseDrawing";
import { Begin } from "./Begin";
import { CrowdWishes } from "./CrowdWishes";
import { Datums } from "./Datums";
import { DrawOutline } from "./DrawOutline";
import { Load } from "./Load";
import { MeshFacts } from "./MeshFacts";
import { MeshFile } from "./MeshFile";
import { Openings } from "./Openings";
import { Redraw } from "./Redraw";
import { Thinning } from "./Thinning";

type Making = "deck" | "wall" | "panel" | "piece" | "truss" | "crowd" | "figures";
type Kind = "add outline deck" | "add wall" | "add panel" | "add piece" | "add truss" | "add crowd" | "add figures";
interface Line {
  field: string;
  label: string;
  hint?: string;
  options?: readonly (string | { value: string; label: string })[];
  /** Only where the other values ask for it. */
  when?: (texts: Record<string, string>) => boolean;
  /** Not where the outline was drawn. */
  typed?: boolean;
}

const KIND: Record<Making, Kind> = { deck: "add outline deck", wall: "add wall", panel: "add panel", piece: "add piece", truss: "add truss", crowd: "add crowd", figures: "add figures" };
const BOX = { width: "4m", depth: "3m", x: "0", y: "0" };
const FORMS: Record<Making, Record<string, string>> = {
  deck: { name: "", made: "deck", ...BOX, height: "0.4m", z: "0", finish: "black", legs: "hidden", count: "4", rise: "90" },
  panel: { name: "", at: "0", thickness: "0.04m", finish: "cloth" },
  wall: { name: "", ...BOX, height: "3m", thickness: "0.1m", z: "0", finish: "cloth" },
  piece: { name: "", piece: "flat", width: "", depth: "", height: "", x: "0", y: "0", z: "0", turn: "0", count: "3", fullness: "0.5", finish: "black" },
  truss: {
    name: "", form: "straight", lattice: "box", length: "8m", diameter: "5m", span: "360", start_trim: "6m", end_trim: "", x: "0", y: "0", turn: "0", section: "0.4m",
    arms: "0", arm: "1m", arm_pitch: "0.6m", kg_per_m: "", hoists: "0", bridle: "0", steel: "0",
  },
  crowd: { name: "", ...BOX, y: "DS 8", seating: "rows", count: "", per_m2: "1.5", pitch: "0.55m", row: "0.9m", rise: "0", centre_aisle: "", sitting_share: "", raised_share: "", z: "0", seed: "1" },
  figures: { name: "", pose: "standing", rows: "1", columns: "1", pitch: "0.55m", depth: "0.9m", height: "1.72m", x: "0", y: "DS 2", z: "0", turn: "0" },
};
const PIECES_OWN = ["name", "width", "depth", "height", "count", "fullness"] as const;
const PLACE: Line[] = [{ field: "x", label: "SL / SR", typed: true }, { field: "y", label: "US / DS", typed: true }];
const SIZE: Line[] = [{ field: "width", label: "Width", typed: true }, { field: "depth", label: "Depth", typed: true }, ...PLACE];
const straight = (texts: Record<string, string>) => texts.form !== "arc";
const arc = (texts: Record<string, string>) => texts.form === "arc";
const upright = (texts: Record<string, string>) => texts.form === "upright";
const rows = (texts: Record<string, string>) => texts.seating === "rows";
const LINES: Record<Making, Line[]> = {
  deck: [
    { field: "name", label: "Name", hint: "Deck 1" },
    { field: "made", label: "It is", options: [{ value: "deck", label: "a deck on legs" }, { value: "riser", label: "a riser, solid" }, { value: "steps", label: "steps" }, { value: "ramp", label: "a ramp" }] },
    ...SIZE, { field: "height", label: "Height" }, { field: "z", label: "Stands at" },
    { field: "legs", label: "Its legs", options: [{ value: "hidden", label: "behind a fascia" }, { value: "seen", label: "are seen" }], when: (texts) => texts.made === "deck" },
    { field: "count", label: "How many", when: (texts) => texts.made === "steps" }, { field: "rise", label: "Rises to, °", when: (texts) => texts.made === "steps" || texts.made === "ramp" },
    { field: "finish", label: "Faced with", options: choices("deck", "finish") },
  ],
  panel: [
    { field: "name", label: "Name", hint: "Panel 1" }, { field: "at", label: "Stands at", hint: "US 4" }, { field: "thickness", label: "Thickness" }, { field: "finish", label: "Faced with", options: choices("deck", "finish") },
  ],
  wall: [{ field: "name", label: "Name", hint: "Wall 1" }, ...SIZE, { field: "height", label: "Height" }, { field: "thickness", label: "Thickness" }, { field: "z", label: "Stands at" }, { field: "finish", label: "Faced with", options: choices("deck", "finish") }],
  piece: [
    { field: "piece", label: "Piece", options: ["flat", "platform", "rostrum", "steps", "ramp", "drape", "cyc", "screen", "table", "chair", "music stand", "piano", "barrier", "column", "balustrade"] },
    { field: "name", label: "Name", hint: "Flat 1" }, { field: "width", label: "Width", hint: "as usual" }, { field: "depth", label: "Depth", hint: "as usual" }, { field: "height", label: "Height", hint: "as usual" },
    { field: "x", label: "SL / SR" }, { field: "y", label: "US / DS" }, { field: "z", label: "Stands at" }, { field: "turn", label: "Turn" },
    { field: "count", label: "How many", when: (texts) => ["steps", "barrier"].includes(texts.piece ?? "") }, { field: "fullness", label: "Fullness", when: (texts) => texts.piece === "drape" },
    { field: "finish", label: "Faced with", options: choices("deck", "finish") },
  ],
  truss: [
    { field: "name", label: "Name", hint: "Truss 1" },
    { field: "form", label: "Form", options: [{ value: "straight", label: "straight, level or raked" }, { value: "upright", label: "upright, a boom" }, { value: "arc", label: "ring or arc" }] },
    { field: "lattice", label: "Made of", options: choices("truss", "lattice") },
    { field: "length", label: "Length", when: straight }, { field: "diameter", label: "Diameter", when: arc }, { field: "span", label: "Span, °", when: arc },
    { field: "start_trim", label: "Trim" }, { field: "end_trim", label: "Far end, raked", hint: "level", when: (texts) => !upright(texts) },
    { field: "x", label: "SL / SR" }, { field: "y", label: "US / DS" }, { field: "turn", label: "Turn" }, { field: "section", label: "Section", when: (texts) => texts.lattice !== "pipe" },
    { field: "arms", label: "Arms", when: upright }, { field: "arm", label: "Arm length", when: upright }, { field: "arm_pitch", label: "Arms apart", when: upright },
    { field: "hoists", label: "Points", when: (texts) => !upright(texts) }, { field: "bridle", label: "Bridle", when: (texts) => !upright(texts) && Number(texts.hoists) > 0 },
    { field: "steel", label: "Steel at", hint: "2 m over it", when: (texts) => !upright(texts) && Number(texts.hoists) > 0 },
    { field: "kg_per_m", label: "kg per m", hint: "as usual" },
  ],
  crowd: [
    { field: "name", label: "Name", hint: "Crowd 1" }, { field: "seating", label: "They are", options: [{ value: "rows", label: "in rows" }, { value: "standing", label: "standing as they come" }] }, ...SIZE,
    { field: "count", label: "How many", hint: "as many as fit" }, { field: "per_m2", label: "Per m²", when: (texts) => !rows(texts) && !texts.count?.trim() },
    { field: "pitch", label: "Seats apart", when: rows }, { field: "row", label: "Row to row", when: rows }, { field: "rise", label: "Rise a row", when: rows },
    { field: "centre_aisle", label: "Middle aisle", hint: "none" }, { field: "sitting_share", label: "Sitting, %", hint: "by seating" }, { field: "raised_share", label: "Arms up, %", hint: "nobody" }, { field: "z", label: "Stands at" }, { field: "seed", label: "Dice" },
  ],
  figures: [
    { field: "name", label: "Name", hint: "Person 1" }, { field: "pose", label: "Pose", options: ["standing", "sitting", "playing", "arms up"] }, { field: "rows", label: "Rows" }, { field: "columns", label: "In a row" }, { field: "pitch", label: "Apart" },
    { field: "depth", label: "Row depth" }, { field: "height", label: "Body height" }, { field: "x", label: "SL / SR" }, { field: "y", label: "US / DS" }, { field: "z", label: "Stands at" }, { field: "turn", label: "Turn" },
  ],
};
const DRAWN: readonly Making[] = ["deck", "wall", "panel", "crowd"];

type Doing = "add" | "change" | "set up";

/** What to do on the site, one thing at a time: add, change what is selected, or set up what all stands on. */
export function SiteCard() {
  const selection = useSelection((state) => state.selection);
  // What is being arranged stays in hand whatever is selected meanwhile.
  const arranging = useArrange((state) => state.on);
  const [picked, setPicked] = useState<Doing | null>(null);
  // What has just been added is selected, and the next of its kind may follow.
  const adding = useRef(false);
  useEffect(
    () =>
      useSelection.subscribe((now, before) => {
        if (now.selection !== before.selection && now.selection.length && !adding.current) setPicked(null);
      }),
    [],
  );
  const doing = picked ?? (selection.length || arranging ? "change" : "add");
  return (
    <>
      <CardHead none="The site" />
      <Box px="16px" pt="10px">
        <Segments<Doing> name="What to do" value={doing} onChange={setPicked} options={[{ value: "add", label: "Add" }, { value: "change", label: "Change" }, { value: "set up", label: "Set up" }]} />
      </Box>
      {doing === "change" && (
        <>
          {selection.length > 0 ? (
            <Section title="Values">
              <BodyFields ids={selection} />
              <Action look="quiet" onClick={() => void edit("remove", { ids: selection }).catch(() => undefined)}>
                Remove {many(selection.length, "thing")}
              </Action>
            </Section>
          ) : (
            <Section><Box color="dim" fontSize="12.5px">Select something on the stage or in the bench: what it holds is changed here.</Box></Section>
          )}
          <Redraw />
          <Openings />
          <Load />
          <MeshFacts />
          <CrowdWishes />
          <Arrange />
          {(selection.length > 1 || arranging) && <ArrangeGuide />}
        </>
      )}
      {doing === "add" && (
        <Box onFocusCapture={() => setPicked("add")}>
          <Begin />
          <Add adding={adding} />
        </Box>
      )}
      {doing === "set up" && (
        <>
          <Thinning />
          <Datums />
          <BaseDrawing />
          <MeshFile />
        </>
      )}
      <Readiness step="site" />
    </>
  );
}

const ADDED: readonly { value: Making; label: string }[][] = [
  [{ value: "deck", label: "Deck" }, { value: "wall", label: "Wall" }, { value: "panel", label: "Panel" }, { value: "piece", label: "Scenery" }],
  [{ value: "truss", label: "Truss" }, { value: "crowd", label: "Crowd" }, { value: "figures", label: "People" }],
];

function Add({ adding }: { adding: { current: boolean } }) {
  const system = useShow((state) => settings(state.objects).system);
  const [making, setMaking] = useState<Making>("deck");
  return (
    <Section title="Add to the site">
      {ADDED.map((options, i) => (
        <Segments<Making>
          key={i}
          name={i ? "What to add, further" : "What to add"}
          value={making}
          onChange={(chosen) => {
            leaveDrawing();
            setMaking(chosen);
          }}
          options={options}
        />
      ))}
      <Form key={`${making} ${system}`} making={making} adding={adding} />
    </Section>
  );
}

/** What the button will add, counted. */
function what(making: Making, texts: Record<string, string>, drawn: boolean, area: number, ghosts: number): string {
  if (making === "deck") {
    const made = texts.made === "steps" ? "steps" : `a ${texts.made ?? "deck"}`;
    return drawn ? `${made} of ${area.toFixed(1)} m²` : made.replace("a ", "1 ");
  }
  if (making === "panel") return drawn ? `a panel of ${area.toFixed(1)} m²` : "1 panel";
  if (making === "wall") return "1 wall";
  if (making === "piece") return `1 ${texts.piece ?? "piece"}`;
  if (making === "crowd") return ghosts ? `${ghosts} people` : "a crowd";
  if (making === "figures") {
    const count = (Number(texts.rows) || 1) * (Number(texts.columns) || 1);
    return count === 1 ? "1 person" : `${count} people`;
  }
  const raked = texts.form !== "upright" && texts.end_trim?.trim() && texts.end_trim !== texts.start_trim;
  const full = !(parseFloat(texts.span ?? "360") < 360);
  const name = texts.form === "upright" ? "boom" : texts.form === "arc" ? (full ? "ring" : "arc") : texts.lattice === "pipe" ? "pipe" : "truss";
  return `1 ${raked ? "raked " : ""}${name}`;
}

function Form({ making, adding }: { making: Making; adding: { current: boolean } }) {
  const system = useShow((state) => settings(state.objects).system);
  const form = useForm<Record<string, string>>(usuals(FORMS[making], system));
  const [ghosted, setGhosted] = useState(false);
  const { on: inHand, corners: clicked, closed, editing, shape, plane } = useDrawing();
  const corners = outlineNow({ shape, corners: clicked, closed });
  // An outline that is drawn anew is another thing than one to be added.
  const on = inHand && !editing;
  const ghosts = useGhost((state) => state.ghost?.scene.length ?? 0);
  const kind = KIND[making];
  const drawable = DRAWN.includes(making);
  const drawn = on && drawable && (closed || (making === "wall" && corners.length > 1));
  const sizeless = Object.fromEntries(Object.entries(form.texts).filter(([field]) => field !== "legs" && (!drawn || !["width", "depth", "x", "y"].includes(field))));
  const args = {
    ...sizeless, ...(making === "deck" ? { fascia: form.texts.legs !== "seen" } : {}), ...(making === "panel" ? { corners, seen_from: plane === "side" ? "side" : "front" } : {}),
    ...(drawn ? { corners, ...(making === "wall" ? { closed } : {}) } : {}),
  } as unknown as EditArgs[typeof kind];
  // Once something has been typed or drawn, the ghost shows what would be added.
  usePreview(kind, ghosted || drawn ? args : null);
  useEffect(() => leaveDrawing, []);
  const add = () =>
    void form.attempt(async () => {
      adding.current = true;
      try {
        await edit(kind, args, { select: true, quiet: true });
      } finally {
        adding.current = false;
      }
      setGhosted(false);
      leaveGhost();
      leaveDrawing();
    });
  return (
    <Box
      as="form"
      onSubmit={(event) => {
        event.preventDefault();
        add();
      }}
    >
      {drawable && <DrawOutline wall={making === "wall"} upright={making === "panel"} onDone={add} />}
      {LINES[making]
        .filter((line) => (!line.when || line.when(form.texts)) && !(line.typed && on))
        .map((line) => {
          const put = (typed: string) => {
            // Another piece has sizes and a name of its own; where it stands may stay.
            if (line.field === "piece") form.reset({ ...form.texts, ...Object.fromEntries(PIECES_OWN.map((field) => [field, FORMS.piece[field] ?? ""])) });
            form.put(line.field, typed);
            setGhosted(true);
          };
          return line.options ? (
            <Choice key={line.field} label={line.label} value={form.texts[line.field] ?? ""} options={line.options} onChange={put} />
          ) : (
            <Input key={line.field} label={line.label} hint={line.field === "name" && form.texts.piece ? `${form.texts.piece.charAt(0).toUpperCase()}${form.texts.piece.slice(1)} 1` : line.hint} numeric={line.field !== "name"} value={form.texts[line.field] ?? ""} wrong={form.wrongAt(line.field)} onChange={put} />
          );
        })}
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      <Foot>
        <Action look="main" type="submit" disabled={(on || making === "panel") && !drawn}>
          Add {what(making, form.texts, drawn, areaOf(corners), making === "crowd" ? ghosts : 0)}
        </Action>
      </Foot>
    </Box>
  );
}
