import * as THREE from "three";
import type { Gate } from "../gate";
import type { Body, Cell, Mounted, PatchInfo, Pose, Quat, Vec3 } from "../data";
import { broughtPlace, broughtTurn } from "./carried";
import { LaserFigures } from "./lasers";
import { type FieldName, LAYOUT, type Places, placesOf } from "./fields";

const PER_ROW = 64;
const STATIC = 7;
const DYNAMIC = 10;
/** Texel 8 keeps the pose of the frame before, texel 9 the shadow tile. */
const BEFORE = 32;
const TILE = 36;
/** Where a texture has the colour, which is in candela there. */
const RED = LAYOUT.indexOf("red");
/** More ways to stand than anybody compares at a time. */
export const STANDS = 4096;
const FROST = THREE.MathUtils.degToRad(12);

function texture(texels: number, rows: number): THREE.DataTexture {
  const data = new Float32Array(PER_ROW * texels * rows * 4);
  const made = new THREE.DataTexture(data, PER_ROW * texels, rows, THREE.RGBAFormat, THREE.FloatType);
  made.minFilter = made.magFilter = THREE.NearestFilter;
  made.needsUpdate = true;
  return made;
}

/** Where lens and direction of a beam are: the same chain as light/beam.glsl, for picking, overlays, shadows and tests. */
export interface Posed {
  readonly lens: Readonly<THREE.Vector3>;
  readonly along: Readonly<THREE.Vector3>;
  readonly side: Readonly<THREE.Vector3>;
}

/** One picture's dynamic beam state. */
export class Picture {
  readonly dynamic: THREE.DataTexture;
  values: Float32Array<ArrayBufferLike> = new Float32Array(0);
  version = 0;
  /** Poses that were asked for, each with the pan and tilt that it is for, all for one state of the clamps. */
  readonly poses: ({ pan: number; tilt: number; posed: Posed } | undefined)[] = [];
  posedFor = -1;
  private arrived = 0;
  private interval = 0;
  constructor(rows: number) {
    this.dynamic = texture(DYNAMIC, rows);
  }

  came(now: number): void {
    // Frames that come in a stream are blended from one to the next; one that comes alone is shown at once.
    const since = now - this.arrived;
    this.interval = this.version > 0 && since < 60 ? since : 0;
    this.arrived = now;
    this.version += 1;
  }

  /** How far the picture is from the frame before (0) to the last one (1). */
  mix(now: number): number {
    return this.interval > 0 ? Math.min((now - this.arrived) / this.interval, 1) : 1;
  }

  setTile(row: number, tile: number): void {
    const data = this.dynamic.image.data as Float32Array;
    const at = row * DYNAMIC * 4 + TILE;
    if (data[at] === tile) return;
    data[at] = tile;
    this.dynamic.needsUpdate = true;
  }
}

/** The beam state textures of the rig: where clamps are, and what each picture's heads and lamps do. */
export class BeamState {
  count = 0;
  static: THREE.DataTexture = texture(STATIC, 1);
  prisms: THREE.DataTexture = new THREE.DataTexture(new Float32Array(9 * 4), 9, 1, THREE.RGBAFormat, THREE.FloatType);
  prismReach: number[] = [];
  gobos: string[] = [];
  private changes = 0;
  private standNumber = 0;
  private rows = 1;
  private fixtures: string[] = [];
  private peak: number[] = [];
  private places: Places = { at: {} as Places["at"], inTexture: [], count: 0 };
  private index = new Map<string, number>();
  private mounted = new Map<string, Mounted>();
  private bodies = new Map<string, Body>();
  private cells: (Cell | undefined)[] = [];
  private override = new Map<string, { position: Vec3; rotation: Quat }>();
  private elsewhere = new Map<string, { position: Vec3; rotation: Quat }>();
  /** What drivers have brought elsewhere. */
  private carried = new Map<string, Pose>();
  readonly pictures = new Map<string, Picture>();
  /** What lasers draw just now. */
  readonly lasers = new LaserFigures();

  /** Another number for every other way in which clamps are placed. */
  get placed(): number {
    return this.changes * STANDS + this.standNumber;
  }

  /** Rows of the frames to come. Pictures of an older patch are dropped. */
  setPatch(patch: PatchInfo): void {
    this.fixtures = patch.fixtures;
    this.peak = patch.peak;
    this.places = placesOf(patch.fields);
    this.gobos = patch.gobos;
    this.index = new Map();
    patch.fixtures.forEach((id, row) => {
      if (!this.index.has(id)) this.index.set(id, row);
    });
    this.count = patch.fixtures.length;
    const rows = Math.max(1, Math.ceil(this.count / PER_ROW));
    if (rows !== this.rows) {
      this.rows = rows;
      this.static.dispose();
      this.static = texture(STATIC, rows);
    }
    for (const picture of this.pictures.values()) picture.dynamic.dispose();
    this.pictures.clear();
    this.setPrisms(patch.prisms);
    this.writeStatic();
  }

  private setPrisms(prisms: Vec3[][]): void {
    const rows = Math.max(prisms.length, 1);
    const data = new Float32Array(rows * 9 * 4);
    this.prismReach = prisms.map((facets) => Math.max(...facets.map(([x, y]) => Math.hypot(x, y)), 0));
    prisms.forEach((facets, row) => {
      data.set([Math.min(facets.length, 8), this.prismReach[row] ?? 0, 0, 0], row * 36);
      facets.slice(0, 8).forEach(([x, y, turn], k) => data.set([x, y, THREE.MathUtils.degToRad(turn), 0], row * 36 + (k + 1) * 4));
    });
    this.prisms.dispose();
    this.prisms = new THREE.DataTexture(data, 9, rows, THREE.RGBAFormat, THREE.FloatType);
    this.prisms.minFilter = this.prisms.magFilter = THREE.NearestFilter;
    this.prisms.needsUpdate = true;
  }

  setRig(mounted: Mounted[], bodies: Body[]): void {
    this.mounted = new Map(mounted.map((one) => [one.id, one]));
    this.bodies = new Map(bodies.map((body) => [body.key, body]));
    this.writeStatic();
  }

  /** Places that a preview shows instead of the real ones. */
  setOverride(mounts: { id: string; position: Vec3; rotation: Quat }[]): void {
    this.override = new Map(mounts.map((mount) => [mount.id, mount]));
    this.writeStatic();
  }

  /** Places that are those of one picture only (stands.ts), by a number of its own; 0: as they are. */
  stand(number: number, mounts: readonly { id: string; position: Vec3; rotation: Quat }[]): void {
    if (number % STANDS === this.standNumber) return;
    this.standNumber = number % STANDS;
    this.elsewhere = new Map(mounts.map((mount) => [mount.id, mount]));
    this.write();
  }

  /** Bring clamps to where drivers have them; those that were elsewhere and are not named any more go back. */
  carry(poses: ReadonlyMap<string, Pose>): void {
    const touched = new Set([...this.carried.keys(), ...poses.keys()]);
    this.carried = new Map(poses);
    this.changes += 1;
    for (const id of touched) {
      const first = this.index.get(id);
      if (first === undefined) continue;
      for (let row = first; this.fixtures[row] === id; row++) this.place(row);
    }
    this.static.needsUpdate = true;
  }

  /** Where a clamp is at rest, brought along. */
  private broughtPlace(id: string): { position: Vec3; rotation: Quat } | undefined {
    const own = this.mounted.get(id);
    const pose = this.carried.get(id);
    return own && pose ? { position: broughtPlace(pose, own.position), rotation: broughtTurn(pose, own.rotation) } : own;
  }

  /** The row of a fixture's first beam. */
  rowOf(id: string): number | undefined {
    return this.index.get(id);
  }

  idOf(row: number): string | undefined {
    return this.fixtures[row];
  }

  placeOf(id: string): { position: Vec3; rotation: Quat } | undefined {
    return this.override.get(id) ?? this.elsewhere.get(id) ?? this.broughtPlace(id);
  }

  private writeStatic(): void {
    this.changes += 1;
    this.write();
  }

  private write(): void {
    const data = this.static.image.data as Float32Array;
    data.fill(0);
    this.cells = this.fixtures.map((id, row) => {
      const fixture = this.mounted.get(id);
      const cell = fixture && this.bodies.get(fixture.body)?.cells[row - (this.index.get(id) ?? row)];
      if (!fixture || !cell) return undefined;
      const at = row * STATIC * 4;
      data.set([...cell.pan, this.peak[row] ?? 0], at + 8);
      data.set([...cell.tilt, cell.zero[0]], at + 12);
      data.set([...cell.lens, cell.zero[1]], at + 16);
      data.set(cell.lensTurn, at + 20);
      data[at + 24] = Number(cell.mirror);
      return cell;
    });
    for (let row = 0; row < this.count; row++) this.place(row);
    this.static.needsUpdate = true;
  }

  /** Write where the clamp of a row is. */
  private place(row: number): void {
    const cell = this.cells[row];
    const place = cell && this.placeOf(this.fixtures[row] ?? "");
    if (!place) return;
    const data = this.static.image.data as Float32Array;
    const at = row * STATIC * 4;
    data.set([...place.position, cell.lensRadius], at);
    data.set(new THREE.Quaternion(...place.rotation).multiply(new THREE.Quaternion(...cell.mountTurn)).toArray(), at + 4);
  }

  /** Take a picture's beams: rows x fields, in the units of the wire (core/picture.py). */
  setFrame(name: string, values: Float32Array<ArrayBufferLike>, now = performance.now()): void {
    let picture = this.pictures.get(name);
    const first = !picture;
    if (!picture) {
      picture = new Picture(this.rows);
      this.pictures.set(name, picture);
    }
    picture.values = values;
    picture.came(now);
    const data = picture.dynamic.image.data as Float32Array;
    const { at: place, inTexture, count: k } = this.places;
    const fields = inTexture.length;
    for (let row = 0; row < this.count && (row + 1) * k <= values.length; row++) {
      const v = row * k;
      const at = row * DYNAMIC * 4;
      const peak = this.peak[row] ?? 0;
      // The first texel keeps the pose of the frame before.
      for (let i = 0; i < 4; i++) data[at + BEFORE + i] = first ? (values[v + (inTexture[i] as number)] as number) : (data[at + i] as number);
      for (let i = 0; i < fields; i++) data[at + i] = values[v + (inTexture[i] as number)] as number;
      data[at + TILE + 1] = values[v + place.strobe_kind] as number;
      data[at + TILE + 2] = values[v + place.sharp_at] as number;
      for (let i = RED; i < RED + 3; i++) data[at + i] = (data[at + i] as number) * peak;
    }
    picture.dynamic.needsUpdate = true;
  }

  private of(row: number, pictureName: string, field: FieldName): number {
    return this.pictures.get(pictureName)?.values[row * this.places.count + this.places.at[field]] ?? 0;
  }

  /** Lens place and direction of a row in a picture, by its last frame. */
  poseRow(row: number, pictureName: string): Posed | null {
    const cell = this.cells[row];
    const id = this.fixtures[row];
    const place = id === undefined ? undefined : this.placeOf(id);
    if (!cell || !place) return null;
    const pan = this.of(row, pictureName, "pan");
    const tilt = this.of(row, pictureName, "tilt");
    const picture = this.pictures.get(pictureName);
    if (picture && picture.posedFor !== this.placed) {
      picture.poses.length = 0;
      picture.posedFor = this.placed;
    }
    const known = picture?.poses[row];
    if (known && known.pan === pan && known.tilt === tilt) return known.posed;
    const posed = this.posed(cell, place, pan, tilt);
    if (picture) picture.poses[row] = { pan, tilt, posed };
    return posed;
  }

  private posed(cell: Cell, place: { position: Vec3; rotation: Quat }, pan: number, tilt: number): Posed {
    const mount = new THREE.Quaternion(...place.rotation).multiply(new THREE.Quaternion(...cell.mountTurn));
    const panTurn = new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(0, 0, 1), pan + cell.zero[0]);
    const tiltTurn = new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(1, 0, 0), tilt + cell.zero[1]);
    const lens = new THREE.Vector3(...cell.lens).applyQuaternion(tiltTurn).add(new THREE.Vector3(...cell.tilt));
    lens.applyQuaternion(panTurn).add(new THREE.Vector3(...cell.pan)).applyQuaternion(mount);
    // A mirror turns its light twice as far, and what stands in the gate by its pan (core/aiming/solve.py).
    const light = cell.mirror ? tiltTurn.clone().setFromAxisAngle(new THREE.Vector3(1, 0, 0), 2 * (tilt + cell.zero[1]) - Math.PI).multiply(panTurn) : tiltTurn;
    const whole = mount.clone().multiply(panTurn).multiply(light).multiply(new THREE.Quaternion(...cell.lensTurn));
    return {
      lens: lens.add(new THREE.Vector3(...place.position)),
      along: new THREE.Vector3(0, 0, -1).applyQuaternion(whole),
      side: new THREE.Vector3(1, 0, 0).applyQuaternion(whole),
    };
  }

  /** Lens place and direction of a fixture's first beam in a picture. */
  pose(id: string, pictureName: string): Posed | null {
    const row = this.index.get(id);
    return row === undefined ? null : this.poseRow(row, pictureName);
  }

  /** Half the field angle, the tangent of where nothing is left, and the virtual apex's distance behind the lens. */
  cone(row: number, pictureName: string): { half: number; outer: number; apex: number } {
    const laser = pictureName === "live" ? this.lasers.rows.get(row) : undefined;
    if (laser) return { half: Math.atan(laser.outer), outer: laser.outer, apex: (this.cells[row]?.lensRadius ?? 0.05) / laser.outer };
    const hard = this.of(row, pictureName, "hard") > 0.5;
    const beam = Math.max(this.of(row, pictureName, "beam"), 0.002);
    const half = Math.min(Math.max(this.of(row, pictureName, "field"), beam * (hard ? 1 : 1.1)) / 2, 1.5);
    const blur = this.of(row, pictureName, "sharp_at") > 0 ? 1 : 1 - this.of(row, pictureName, "focus");
    let outer = hard ? Math.tan(half) * (1.012 + 0.35 * blur) : Math.tan(Math.min(1.5 * half, 1.5));
    if (this.of(row, pictureName, "frost") > 0.001) outer = Math.max(outer, Math.tan(Math.min(0.75 * (2 * half + FROST), 1.5)));
    const prism = Math.round(this.of(row, pictureName, "prism"));
    if (prism > 0) outer += Math.tan(half) * (this.prismReach[prism - 1] ?? 0);
    // A web is measured from the lens plane.
    if (this.of(row, pictureName, "web") > 0.5) return { half, outer, apex: 0.002 };
    return { half, outer, apex: (this.cells[row]?.lensRadius ?? 0.05) / Math.tan(half) };
  }

  /** How the blades of a row stand in a picture. */
  gate(row: number, pictureName: string): Gate {
    const of = (field: FieldName) => this.of(row, pictureName, field);
    const blades = ([1, 2, 3, 4] as const).map((n) => ({ depth: of(`blade${n}`), angle: of(`blade${n}_angle`) }));
    return { blades, turn: of("blades_turn") };
  }

  /** Candela on the axis of a row in a picture, as the eye weighs it. */
  luminance(row: number, pictureName: string): number {
    const laser = pictureName === "live" ? this.lasers.rows.get(row) : undefined;
    if (laser) return laser.lumen / (2 * Math.PI * (1 - Math.cos(Math.atan(laser.outer))));
    const values = this.pictures.get(pictureName)?.values;
    if (!values) return 0;
    const { at, count } = this.places;
    const of = (colour: "red" | "green" | "blue") => values[row * count + at[colour]] ?? 0;
    return (0.2127 * of("red") + 0.7152 * of("green") + 0.0722 * of("blue")) * (this.peak[row] ?? 0);
  }

  /** A field of a beam in a picture. */
  field(row: number, pictureName: string, field: FieldName): number {
    return this.of(row, pictureName, field);
  }

  /** Candela on the axis of a row in a picture, by colour. */
  candelaRow(row: number, pictureName: string): Vec3 {
    const peak = this.peak[row] ?? 0;
    return (["red", "green", "blue"] as const).map((colour) => this.of(row, pictureName, colour) * peak) as Vec3;
  }

  /** Candela on the axis of a fixture's first beam in a picture, by colour. */
  candela(id: string, pictureName: string): Vec3 {
    const row = this.index.get(id);
    return row === undefined ? [0, 0, 0] : this.candelaRow(row, pictureName);
  }

  /** Whether anything lit in a picture flashes or turns by itself, so that it has to be drawn again and again. */
  moves(pictureName: string): "flashes" | "turns" | null {
    const values = this.pictures.get(pictureName)?.values;
    if (!values) return null;
    const { at: place, count: k } = this.places;
    let turns = false;
    for (let at = 0; at + k <= values.length; at += k) {
      const lit = (values[at + place.red] as number) > 0 || (values[at + place.green] as number) > 0 || (values[at + place.blue] as number) > 0;
      if (!lit) continue;
      if ((values[at + place.strobe] as number) > 0.05) return "flashes";
      const spins = Math.abs(values[at + place.gobo_spin] ?? 0) + Math.abs(values[at + place.gobo2_spin] ?? 0) + Math.abs(values[at + place.prism_spin] ?? 0);
      turns ||= spins > 1e-4;
    }
    return turns ? "turns" : null;
  }
}
