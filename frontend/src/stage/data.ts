/** What the stage is given. Metres, show frame (+X stage left, +Y upstage, +Z up), quaternions (x, y, z, w). */

export type Vec3 = [number, number, number];
export type Quat = [number, number, number, number];

/** Something to draw: a mesh by its key, where it is, its linear diffuse reflectance, and a simpler mesh for far away. */
export interface Solid {
  id: string;
  kind: string;
  mesh: string;
  position: Vec3;
  rotation: Quat;
  albedo: Vec3;
  /** What it is faced with: black, gloss, timber, cloth, brick, steel, gauze, black gauze, translucent, people, or plain. */
  finish: string;
  /** Shares of light that go straight through it, and through it scattered. */
  sheer: [number, number];
  scale: number;
  /** How it may be left out where it stands before the work (scene/cutaway.ts), and the plan of what it encloses. */
  screens: "" | "wall" | "mesh" | "sheet";
  ring: [number, number][];
  /** The doors and windows of a wall, as they are drawn in plan. */
  gaps: { ring: [number, number][]; door: boolean }[];
  /** Simpler meshes: for further away, and for far away and shadows. */
  far: string | null;
  least: string | null;
}

/** One beam of a body: the chain mount -> pan axis -> tilt axis -> lens. */
export interface Cell {
  pan: Vec3;
  tilt: Vec3;
  lens: Vec3;
  lensRadius: number;
  /** Of the chain's frame against the clamp's, and of the lens against the head. */
  mountTurn: Quat;
  lensTurn: Quat;
  /** Added to pan and tilt, radians. */
  zero: [number, number];
  /** Pan and tilt are those of a mirror that light meets at the "lens". */
  mirror: boolean;
}

/** The body of a type in a mode, and its beams in the order of the frame's rows. */
export interface Body {
  key: string;
  parts: { turns: number; mesh: string }[];
  cells: Cell[];
}

/** A fixture on the rig. */
export interface Mounted {
  id: string;
  label: string;
  kind: string;
  body: string;
  position: Vec3;
  rotation: Quat;
}

/** The rows of the frames, as the live process tells them: a fixture's id once for each of its beams. */
export interface PatchInfo {
  rig: number;
  fixtures: string[];
  fields: string[];
  peak: number[];
  gobos: string[];
  webs: string[];
  prisms: Vec3[][];
}

export type ViewName = "free" | "plan" | "front" | "back" | "left" | "right" | "section";
/** Lit by the show, plainly shaded, or as lines. */
export type Shade = "lit" | "unlit" | "lines";

/** What is left out of a pane because it stands in the way (scene/cutaway.ts): a room's walls, all that is in front, none. */
export type Walls = "rooms" | "front" | "whole";

/** One pane: a viewpoint on a picture. `picture` is "live" or the id of a look. */
export interface Pane {
  id: string;
  view: ViewName;
  picture: string;
  share: number;
  shade: Shade;
  /** Whether labels and numbers are shown; they are where nothing is said. */
  labels?: boolean;
  /** As "rooms" where nothing is said. */
  walls?: Walls;
}

/** How the picture is taken, and what is round the show. */
export interface Exposure {
  /** EV100 as set; `shownPerCd` is what 1 cd/m2 comes to. */
  ev: number;
  shownPerCd: number;
  /** White balance, 3x3 row by row, linear Rec. 709. */
  white: number[];
  adapts: boolean;
  /** The eye keeps what it has adapted to, so that pictures can be compared. */
  held: boolean;
  bloom: number;
  hazePerM: number;
  hazeUneven: number;
  workLightLx: number;
  houseLightLx: number;
  /** sRGB "#rrggbb". */
  skyLow: string;
  skyHigh: string;
  shaftGain: number;
  poolGain: number;
  bodyGain: number;
}

export const NEUTRAL: Exposure = {
  ev: 8, shownPerCd: 1 / (1.2 * 256), white: [1, 0, 0, 0, 1, 0, 0, 0, 1], adapts: false, held: false, bloom: 1, hazePerM: 0.015, hazeUneven: 0,
  workLightLx: 40, houseLightLx: 0, skyLow: "#000000", skyHigh: "#000000", shaftGain: 1, poolGain: 1, bodyGain: 1,
};

/** Where a fixture or solid would be, while a gesture or a typed value is previewed. */
export interface Ghost {
  solids: Solid[];
  /** `label`: its own number, or where it comes; `body`: the key of the body of one that is not on the rig yet. */
  mounts: { id: string; position: Vec3; rotation: Quat; label: string; body?: string }[];
  /** The bodies of those that are not on the rig yet. */
  bodies: Body[];
  note: string;
  /** Whether also those of what is there already have their labels. */
  numbered: boolean;
}

/** A rail of a structure, metres. */
export interface RailLine {
  name: string;
  label: string;
  length_m: number;
  closed: boolean;
  points: Vec3[];
}

/** A guide that things are arranged on, as it is drawn: metres, degrees in plan (0 towards stage left). */
export type GuideShape =
  | { kind: "line"; start: Vec3; end: Vec3 }
  | { kind: "ring"; centre: Vec3; radius: number; endRadius: number; startAngle: number; span: number }
  | { kind: "grid"; centre: Vec3 };

/** Where a fixture would be put: on a rail, or on a face. */
export interface PutPlace {
  rail: { structure: string; rail: string; along: number; point: Vec3 } | null;
  point: Vec3 | null;
  normal: Vec3 | null;
}

/** Where something that is driven has been brought, against where it was drawn: x -> position + size . R x. */
export interface Pose {
  readonly position: Vec3;
  readonly rotation: Quat;
  readonly size: number;
}

/** The handle of a carrier, or a focus point. */
export interface CarrierMark {
  id: string;
  name: string;
  position: Vec3;
  focus?: boolean;
  /** What it is called where there is no room for its name. */
  short?: string;
}

/** What is under the pointer while aiming: a face with what is below it, or a focus point. */
export interface PointedAt {
  point: Vec3;
  normal: Vec3;
  foot: Vec3 | null;
  thing: string | null;
  focus: string | null;
}

/** Where a selection would look, or was aimed: the place, what is under it, and each beam. */
export interface PointingShown {
  target: Vec3;
  foot: Vec3 | null;
  said: string;
  /** Where the line begins that ends at the target. */
  from: Vec3 | null;
  taken: boolean;
  /** `half` of the field in radians, `missing` degrees, `blocked` by what. */
  heads: { id: string; lens: Vec3; at: Vec3; half: number; missing: number; blocked: string | null; label: string }[];
}

/** How some fixtures are labelled: each with its parts in their shapes. */
/** A part of a label: what of the fixture it says, and in which shape. */
export interface LabelPart {
  field: string;
  text: string;
  shape: string;
}

export interface StageLabels {
  views: readonly string[];
  sizeMm: number;
  sizePx: number;
  leader: boolean;
  texts: ReadonlyMap<string, readonly LabelPart[]>;
}

export interface PointerPlace {
  pane: string;
  point: Vec3 | null;
  normal: Vec3 | null;
  /** Metres from the eye; in drawn views none. */
  away: number | null;
  id: string | null;
}

/** What a fixture is driven by (core/drive.py). */
export type Driver = "home" | "look" | "console" | "hands";

/** What a fixture belongs to, such as its universe: said in a plate, and told apart by a colour. No text: to none. */
export interface FixtureMark {
  text: string;
  colour: string;
}

/** What is told of fixtures on the stage, by their ids. */
export interface Told {
  /** Who drives each. */
  drivers: ReadonlyMap<string, Driver>;
  /** Whose levels have just moved, and how many seconds ago. */
  moved: ReadonlyMap<string, number>;
  /** What each belongs to. */
  marks: ReadonlyMap<string, FixtureMark>;
  /** The zones of lasers; nothing where they are not shown. */
  zones: readonly LaserZone[];
}

/** Where a laser may draw: its lens, where the edge of its zone lands, and what it reaches that it should not. */
export interface LaserZone {
  id: string;
  label: string;
  chosen: boolean;
  place: Vec3;
  edge: readonly Vec3[];
  /** It has corners: every so many places of the edge. */
  corner: number;
  over: boolean;
  crossings: readonly Vec3[];
}

export type Tool = "select" | "aim" | "measure" | "draw" | "put" | "guide" | "path" | "cut" | "sharp" | "blades" | "ask";

/** An outline while it is drawn: corners (x, y, bulge), where the next would be, and what it was snapped to. */
export interface Drawn {
  plane: DrawPlane;
  corners: [number, number, number][];
  /** What was clicked, where the corners are a curve through that. */
  points?: [number, number, number][];
  next: [number, number] | null;
  why: string;
  closed: boolean;
}

/** The pointer moves over the plan, presses, moves while pressed, lets go after that, or has clicked. */
export type DrawPhase = "hover" | "down" | "drag" | "up" | "click";

/** Where an outline lies: on the floor (x, y), or upright in the planes of the datums (x, z as seen from the house; y, z from the side). */
export type DrawPlane = "plan" | "front" | "side";

/** The pointer on a pane's own plane while something is drawn; `reach` is what eight pixels are there, in metres. */
export interface DrawPoint {
  plane: DrawPlane;
  at: [number, number];
  reach: number;
  locked: boolean;
  free: boolean;
}

/** A place that is asked about: on what, which way its face looks, and from where it was seen. */
export interface AskedPlace {
  point: Vec3;
  normal: Vec3;
  thing: string;
  eye: Vec3;
  target: Vec3;
}

/** Light measured on an area, as it is painted: nx x ny cells by their corners, row after row. */
export interface LightPaint {
  points: [number, number];
  places: Vec3[];
  /** Of each cell, and what is written on it. */
  colours: string[];
  texts: string[];
  numbers: boolean;
  contours: { lux: number; lines: Vec3[][] }[];
}

/** What Review draws over the picture. */
export interface Asked {
  light: LightPaint | null;
  seats: { at: Vec3; colour: string; chosen: boolean }[];
  place: Vec3 | null;
  /** From lamps to the place that they light; share 0..1. */
  rays: { from: Vec3; to: Vec3; share: number; blocked: boolean; text: string }[];
  pins: { id: string; at: Vec3; text: string; done: boolean; chosen: boolean }[];
}

/** Which numbers stand on the picture. */
export interface LabelChoice {
  bodies: boolean;
  landings: boolean;
}

export interface Stats {
  fps: number;
  jsMs: number;
  lit: number;
  /** The share of time that drawing keeps the machine busy, 0..1. */
  load: number;
  /** The quality drawn last, and whether it is refined while nothing moves. */
  step: string;
  /** The EV that the eye has adapted to. */
  ev: number;
}

export interface StageEvents {
  onSelect(ids: string[], add: boolean): void;
  /** A thing is dragged, maybe off the stage: whether it is carried then, for the rest is not the stage's; null: let go. */
  onCarry(id: string | null): boolean;
  onAim(place: PointedAt | null, phase: "hover" | "drag" | "click"): void;
  /** The edge nearest to a place on a thing is meant. */
  onCut(place: { point: Vec3; thing: string } | null, phase: "hover" | "click"): void;
  /** Gates are to be sharp at that place. */
  onSharp(place: { point: Vec3; thing: string } | null, phase: "hover" | "click"): void;
  /** Blades of a fixture are dragged: features to hold. */
  onBlades(id: string, values: Record<string, number>, phase: "move" | "end"): void;
  onPath(place: PointedAt | null, phase: "hover" | "click"): void;
  /** The place aimed at is raised to a height over the datum; null: left as it was. */
  onRaise(height: number | null, phase: "move" | "end"): void;
  onPointer(place: PointerPlace): void;
  onDrag(delta: Vec3, phase: "move" | "end" | "cancel", handle: string): void;
  onStats(stats: Stats): void;
  onLost(lost: boolean): void;
  onViewChanged(pane: string): void;
  onMeasured(metres: number | null): void;
  onDraw(point: DrawPoint, phase: DrawPhase): void;
  onPut(place: PutPlace, phase: "hover" | "click"): void;
  onGuide(handle: string, to: Vec3, phase: "move" | "end"): void;
  /** A place of the picture was clicked to ask about it. */
  onAsk(place: AskedPlace | null): void;
}
