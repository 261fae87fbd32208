import * as THREE from "three";
import { isA } from "../../kinds";
import type { Body, Mounted, Pose, Solid, Walls } from "../data";
import BODY_VERTEX from "../light/body.vert.glsl?raw";
import FACES from "../light/faces.frag.glsl?raw";
import SOLID_VERTEX from "../light/solid.vert.glsl?raw";
import SURFACE from "../light/surface.glsl?raw";
import { Baked } from "./baked";
import { type BeamState, STANDS } from "./beams";
import { brought } from "./carried";
import { Cutaway } from "./cutaway";
import { type Cone, Instances, matrixOf } from "./instances";
import type { MeshStore } from "./meshes";
import { silhouette, type Upright } from "./silhouettes";

/** Further than these from the eye a thing is drawn by its simpler and by its simplest mesh, metres. */
const LEVELS_M = { moving: [4, 9], usual: [14, 30], still: [45, 90] } as const;
export type Detail = keyof typeof LEVELS_M;
const FASCIA_M = 0.1;
const MOST_M = 1e6;
/** What was sorted for a camera holds until it has gone or turned further than this, metres and radians. */
const SLACK = { m: 0.4, rad: 0.03 } as const;
const CASTER_VERTEX = `
in vec3 position;
#ifndef BAKED
in mat4 instanceMatrix;
#else
const mat4 instanceMatrix = mat4(1.0);
#endif
uniform mat4 uLight;
void main() { gl_Position = uLight * (instanceMatrix * vec4(position, 1.0)); }`;
const CASTER_FRAGMENT = `layout(location = 0) out vec4 nothing; void main() { nothing = vec4(0.0); }`;

/** Uniforms that every pass of a pane shares, by reference. */
export type Uniforms = Record<string, THREE.IUniform>;

function material(vertex: string, fragment: string, uniforms: Uniforms, extra: THREE.ShaderMaterialParameters = {}): THREE.RawShaderMaterial {
  return new THREE.RawShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: `precision highp float; precision highp int;\n${vertex}`,
    fragmentShader: `precision highp float;\n${fragment}`,
    uniforms,
    ...extra,
  });
}

/** A mesh once for each beam that it is posed by, in one buffer: instances are slow in software (baked.ts). */
function repeated(source: THREE.BufferGeometry, beams: readonly number[]): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry();
  const { count } = source.getAttribute("position");
  for (const name of ["position", "normal"]) {
    const data = new Float32Array(count * 3 * beams.length);
    for (let i = 0; i < beams.length; i++) data.set(source.getAttribute(name).array, i * count * 3);
    geometry.setAttribute(name, new THREE.BufferAttribute(data, 3));
  }
  const corners = source.getIndex()?.array ?? [];
  const index = new Uint32Array(corners.length * beams.length);
  const beam = new Float32Array(count * beams.length);
  beams.forEach((row, i) => {
    beam.fill(row, i * count, (i + 1) * count);
    for (let k = 0; k < corners.length; k++) index[i * corners.length + k] = (corners[k] as number) + i * count;
  });
  geometry.setAttribute("beam", new THREE.BufferAttribute(beam, 1));
  geometry.setIndex(new THREE.BufferAttribute(index, 1));
  return geometry;
}

/** At which level things are drawn from a camera, by their middles and radii; -1: out of the picture. */
function levelsFor(camera: THREE.Camera, view: THREE.Matrix4, [near, middle]: readonly [number, number]): (x: number, y: number, z: number, radius: number) => number {
  const { planes } = new THREE.Frustum().setFromProjectionMatrix(view);
  const flat = camera instanceof THREE.OrthographicCamera;
  const eye = camera.position.clone();
  return (x, y, z, radius) => {
    const away = Math.hypot(x - eye.x, y - eye.y, z - eye.z);
    // Both turned and gone as far as it holds; an orthographic camera stands nowhere, so its distance is as good as any.
    const room = radius + SLACK.m + away * 2 * SLACK.rad;
    for (const { normal, constant } of planes) if (normal.x * x + normal.y * y + normal.z * z + constant < -room) return -1;
    if (flat) return 1;
    return away < near ? 0 : away < middle ? 1 : 2;
  };
}

/** Everything that has a surface: one instanced draw for each mesh, whatever the number of things. */
export class Solids {
  readonly scene = new THREE.Scene();
  /** What throws shadows, in its simplest form. */
  readonly casters = new THREE.Scene();
  readonly casterUniforms: Uniforms = { uLight: { value: new THREE.Matrix4() }, uLightAt: { value: new THREE.Vector3() } };
  /** What light passes through in part: drawn by itself (light/veils.ts), in drawings with all else. */
  sheer: readonly Instances[] = [];
  private changes = 0;
  private standing: { number: number; solids: readonly Solid[] } = { number: 0, solids: [] };
  /** What stands elsewhere now: its group, its place in it, and the matrix that it has by itself. */
  private stood: { group: Instances; at: number; own: Float32Array }[] = [];
  /** Balls round everything that stood or now stands elsewhere since they were taken. */
  private moved: THREE.Sphere[] = [];
  private solids = new Map<string, Solid>();
  private override = new Map<string, Solid>();
  /** What drivers have brought elsewhere, as it stands there, and by which pose. */
  private carried = new Map<string, { solid: Solid; pose: Pose }>();
  /** Which group each is in, and its place there. */
  private where = new Map<string, { group: Instances; at: number }>();
  private groups: Instances[] = [];
  private placed = new Map<string, { solid: Solid; ball: THREE.Sphere }>();
  private bodyMeshes: THREE.Mesh[] = [];
  private building = 0;
  /** The camera, the version and the detail that things were sorted for. */
  private sortedFor = { eye: new THREE.Matrix4(), lens: new THREE.Matrix4(), version: -1, detail: "" };
  /** What may stand in the way, and the middle of what is built. */
  private before: { version: number; screens: Solid[]; work: THREE.Vector3 | null } = { version: -1, screens: [], work: null };
  private seen: { version: number; along: string; outlines: Upright[][] } = { version: -1, along: "", outlines: [] };
  private readonly surface: THREE.RawShaderMaterial;
  /** Of what has no cut faces: rooms, which are open, and people, who are whole. */
  private readonly whole: THREE.RawShaderMaterial;
  /** Of what is left out face by face: walls, and what comes out of files, which need not be closed. */
  private readonly walls: THREE.RawShaderMaterial;
  private readonly files: THREE.RawShaderMaterial;
  /** Of structures: tubes that would be thinner than a pixel are drawn as wide as one. */
  private readonly thin: THREE.RawShaderMaterial;
  private readonly casting: THREE.RawShaderMaterial;
  private readonly baked: Baked;

  constructor(
    private readonly meshes: MeshStore,
    private readonly uniforms: Uniforms,
    private readonly changed: () => void,
  ) {
    this.scene.matrixWorldAutoUpdate = this.casters.matrixWorldAutoUpdate = false;
    this.thin = material(`#define THIN\n${SOLID_VERTEX}`, `${SURFACE}\n${FACES}`, uniforms);
    this.surface = material(SOLID_VERTEX, `${SURFACE}\n${FACES}`, uniforms);
    this.whole = material(SOLID_VERTEX, `${SURFACE}\n${FACES}`, uniforms);
    this.walls = material(SOLID_VERTEX, `#define CUTS\n${SURFACE}\n${FACES}`, uniforms);
    this.files = material(SOLID_VERTEX, `#define CUTS\n${SURFACE}\n${FACES}`, uniforms);
    const casting = { colorWrite: false, side: THREE.DoubleSide };
    this.casting = material(CASTER_VERTEX, CASTER_FRAGMENT, this.casterUniforms, casting);
    const far = material(`#define BAKED\n${SOLID_VERTEX}`, `${SURFACE}\n${FACES}`, uniforms);
    this.baked = new Baked(far, material(`#define BAKED\n${CASTER_VERTEX}`, CASTER_FRAGMENT, this.casterUniforms, casting));
    this.scene.add(this.baked.drawn);
    this.casters.add(this.baked.caster);
  }

  /** Another number for every other way in which things stand. */
  get version(): number {
    return this.changes * STANDS + this.standing.number;
  }

  /**
   * Let some things stand elsewhere while one picture is drawn (stands.ts), by a number of its own; 0: as they are.
   * Nothing is built anew. Each picture's shadows are its own, so nothing has moved for them.
   */
  stand(number: number, solids: readonly Solid[]): void {
    if (number % STANDS === this.standing.number) return;
    this.standing = { number: number % STANDS, solids };
    for (const { group, at, own } of this.stood) this.put(group, at, own);
    this.stood = [];
    this.takeStand();
  }

  private takeStand(): void {
    for (const solid of this.standing.solids) {
      const place = this.where.get(solid.id);
      if (!place) continue;
      const { group, at } = place;
      this.stood.push({ group, at, own: group.matrices.slice(at * 16, at * 16 + 16) });
      this.put(group, at, matrixOf(solid).elements);
    }
  }

  /** Bring solids to where drivers have them; those that were elsewhere and are not named any more go back. */
  carry(poses: ReadonlyMap<string, Pose>): void {
    // Whatever one picture has elsewhere goes back first, for what it goes back to may be another place then.
    for (const { group, at, own } of this.stood) this.put(group, at, own);
    this.stood = [];
    for (const id of new Set([...this.carried.keys(), ...poses.keys()])) {
      const solid = this.solids.get(id);
      const place = this.where.get(id);
      const pose = poses.get(id);
      if (solid && pose) this.carried.set(id, { solid: brought(solid, pose), pose });
      else this.carried.delete(id);
      if (!solid || !place) continue;
      this.moved.push(place.group.ballOf(place.at));
      this.put(place.group, place.at, matrixOf(this.get(id) ?? solid).elements);
      const ball = place.group.ballOf(place.at);
      this.moved.push(ball);
      this.placed.set(id, { solid: this.get(id) ?? solid, ball });
    }
    this.takeStand();
    this.changes += 1;
  }

  private put(group: Instances, at: number, matrix: ArrayLike<number>): void {
    group.put(at, matrix);
    const number = group.numberOf(at);
    if (number !== null) this.baked.put(number, matrix);
  }

  setSolids(solids: Solid[]): void {
    this.solids = new Map(solids.map((solid) => [solid.id, solid]));
    // What they were brought by holds for them as they are now.
    for (const [id, { pose }] of this.carried) {
      const solid = this.solids.get(id);
      if (solid) this.carried.set(id, { solid: brought(solid, pose), pose });
      else this.carried.delete(id);
    }
    void this.rebuild();
  }

  setOverride(solids: Solid[]): void {
    if (!solids.length && !this.override.size) return;
    this.override = new Map(solids.map((solid) => [solid.id, solid]));
    void this.rebuild();
  }

  get(id: string): Solid | undefined {
    return this.override.get(id) ?? this.carried.get(id)?.solid ?? this.solids.get(id);
  }

  all(): Solid[] {
    const shown = [...this.solids.values()].map((solid) => this.get(solid.id) ?? solid);
    for (const solid of this.override.values()) if (!this.solids.has(solid.id)) shown.push(solid);
    return shown;
  }

  private async rebuild(): Promise<void> {
    const build = ++this.building;
    const byMesh = new Map<string, Solid[]>();
    for (const solid of this.all()) {
      const key = `${solid.mesh}${solid.sheer[0] > 0 ? "/sheer" : ""}`;
      const list = byMesh.get(key);
      if (list) list.push(solid);
      else byMesh.set(key, [solid]);
    }
    const loaded = await Promise.all(
      [...byMesh.values()].map(async (list) => {
        const keys = [list[0]?.mesh, list[0]?.far, list[0]?.least].filter((one) => typeof one === "string");
        return { list, levels: await Promise.all(keys.map((one) => this.meshes.get(one))) };
      }),
    );
    if (build !== this.building) return;
    for (const group of this.groups) group.dispose();
    const before = this.placed;
    this.placed = new Map();
    this.where.clear();
    let first = 0;
    this.groups = loaded.map(({ list, levels }) => {
      const bakedFrom = levels.length > 2 ? first : null;
      if (bakedFrom !== null) first += list.length;
      return this.group(list, levels, bakedFrom);
    });
    this.sheer = this.groups.filter(({ ids }) => (this.get(ids[0] ?? "")?.sheer[0] ?? 0) > 0);
    this.baked.build(this.groups.flatMap((group) => (group.numberOf(0) === null ? [] : group.small())));
    this.meshes.keep("solids", this.all().flatMap(({ mesh, far, least }) => [mesh, far, least].filter((one) => one !== null)));
    this.noteMoved(before);
    this.stood = [];
    this.takeStand();
    this.changes += 1;
    this.changed();
  }

  private noteMoved(before: Map<string, { solid: Solid; ball: THREE.Sphere }>): void {
    const same = (a: Solid, b: Solid) =>
      a.mesh === b.mesh && a.sheer[0] === b.sheer[0] && a.scale === b.scale && a.position.every((part, i) => part === b.position[i]) && a.rotation.every((part, i) => part === b.rotation[i]);
    for (const [id, now] of this.placed) {
      const was = before.get(id);
      if (was && same(was.solid, now.solid)) continue;
      this.moved.push(now.ball);
      if (was) this.moved.push(was.ball);
    }
    for (const [id, was] of before) if (!this.placed.has(id)) this.moved.push(was.ball);
  }

  /** Where something has moved since this was asked last. */
  takeMoved(): THREE.Sphere[] {
    return this.moved.splice(0);
  }

  private group(list: Solid[], levels: THREE.BufferGeometry[], bakedFrom: number | null): Instances {
    const kind = list[0]?.kind;
    const sheer = (list[0]?.sheer[0] ?? 0) > 0;
    // A room keeps the light in; it throws no shadow into itself.
    const made = new Instances(list, { levels, surface: this.materialOf(list[0]), casting: isA(kind, "around") || sheer ? null : this.casting, bakedFrom });
    list.forEach((solid, at) => {
      this.placed.set(solid.id, { solid, ball: made.ballOf(at) });
      this.where.set(solid.id, { group: made, at });
    });
    if (!sheer) this.scene.add(...made.levels);
    if (made.caster) this.casters.add(made.caster);
    return made;
  }

  private materialOf(solid: Solid | undefined): THREE.RawShaderMaterial {
    if (solid?.kind === "truss") return this.thin;
    if (solid?.screens === "wall") return this.walls;
    if (solid?.screens === "mesh") return this.files;
    return isA(solid?.kind, "around") || solid?.far ? this.whole : this.surface;
  }

  /** Draw also the inside of what the camera begins to see in: those are the cut faces of a section. */
  set section(cut: boolean) {
    const side = cut ? THREE.DoubleSide : THREE.FrontSide;
    for (const what of [this.surface, this.thin, this.walls, ...this.bodyMeshes.map((mesh) => mesh.material as THREE.Material)]) what.side = side;
  }

  /** What is left out for a camera because it stands in the way. */
  cutawayFor(camera: THREE.Camera, walls: Walls): Cutaway {
    if (this.before.version !== this.version) {
      const box = new THREE.Box3();
      const screens: Solid[] = [];
      for (const { solid, ball } of this.placed.values()) {
        if (solid.screens) screens.push(this.get(solid.id) ?? solid);
        else if (!isA(solid.kind, "around")) box.expandByPoint(ball.center);
      }
      this.before = { version: this.version, screens, work: box.isEmpty() ? null : box.getCenter(new THREE.Vector3()) };
    }
    return new Cutaway(camera, walls, this.before.screens, this.before.work);
  }

  /** Settle for a camera what is drawn, and by which mesh: near things whole, far ones simply; sooner while it moves. */
  prepare(camera: THREE.PerspectiveCamera | THREE.OrthographicCamera, cut: Cutaway, how: Detail = "usual"): void {
    const detail = `${how} ${cut.key}`;
    camera.updateMatrixWorld();
    const view = new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    const { sortedFor } = this;
    if (sortedFor.version === this.version && sortedFor.detail === detail && sortedFor.lens.equals(camera.projectionMatrix) && this.hardlyMoved(camera)) return;
    this.sortedFor = { eye: camera.matrixWorld.clone(), lens: camera.projectionMatrix.clone(), version: this.version, detail };
    const level = levelsFor(camera, view, LEVELS_M[how]);
    const far: number[] = [];
    // Gauze is in the way of light wherever the camera looks.
    for (const group of this.groups) group.sort(this.sheer.includes(group) ? () => 0 : level, far, cut);
    this.baked.show(far);
  }

  private hardlyMoved({ matrixWorld: now }: THREE.Camera): boolean {
    const { eye } = this.sortedFor;
    const apart = (column: number) => Math.hypot(...[0, 1, 2].map((k) => (now.elements[column * 4 + k] as number) - (eye.elements[column * 4 + k] as number)));
    return apart(3) < SLACK.m && apart(0) < SLACK.rad && apart(1) < SLACK.rad;
  }

  /** Let what a cone of light reaches throw shadows, and nothing else. */
  castIn(cone: Cone): void {
    const small: number[] = [];
    for (const group of this.groups) group.cast(cone, small);
    this.baked.cast(small);
  }

  /** The bodies of fixtures, posed in the vertex shader from the beam state. */
  async setBodies(mounted: Mounted[], bodies: Body[], state: BeamState): Promise<void> {
    const made: THREE.Mesh[] = [];
    for (const body of bodies) {
      const rows = mounted.filter((one) => one.body === body.key).map((one) => state.rowOf(one.id));
      const beams = rows.filter((row) => row !== undefined);
      for (const part of body.parts) {
        const geometry = repeated(await this.meshes.get(part.mesh), beams);
        const what = material(BODY_VERTEX, `${SURFACE}\n${FACES}`, { ...this.uniforms, uTurns: { value: part.turns } });
        const mesh = new THREE.Mesh(geometry, what);
        mesh.frustumCulled = false;
        made.push(mesh);
      }
    }
    for (const mesh of this.bodyMeshes) {
      this.scene.remove(mesh);
      mesh.geometry.dispose();
      (mesh.material as THREE.Material).dispose();
    }
    this.bodyMeshes = made;
    this.meshes.keep("bodies", bodies.flatMap((body) => body.parts.map((part) => part.mesh)));
    for (const mesh of made) this.scene.add(mesh);
    this.changed();
  }

  /**
   * The nearest surface that a ray meets: where, whose, how it faces (towards where the ray came from). With `all` off it
   * passes through people and gauze; with a cutaway through what that leaves out.
   */
  hit({ ray, near, far }: THREE.Raycaster, all = true, cut?: Cutaway): { point: THREE.Vector3; normal: THREE.Vector3; id: string; distance: number } | null {
    let best: { normal: THREE.Vector3; id: string; distance: number } | null = null;
    for (const group of this.groups) {
      // A crowd is looked through one by one: who throws many rays leaves it out.
      if (!all && (group.crowd || this.sheer.includes(group))) continue;
      const met = group.hit(ray, near, Math.min(best?.distance ?? far, MOST_M), cut);
      if (met) best = { normal: met.normal, id: group.ids[met.at] ?? "", distance: met.distance };
    }
    return best && { ...best, point: ray.at(best.distance, new THREE.Vector3()) };
  }

  /** Whether a wall, a flat or a room stands between two places, but for those of some ids. */
  between(from: THREE.Vector3, to: THREE.Vector3, cut: Cutaway, but: ReadonlySet<string>): boolean {
    const way = to.clone().sub(from);
    const ray = new THREE.Ray(from, way.clone().normalize());
    return this.groups.some((group) => {
      const met = group.inWay ? group.hit(ray, 0, way.length(), cut) : null;
      return met !== null && !but.has((group.ids[met.at] ?? "").split("/")[0] ?? "");
    });
  }

  /** The largest flat things (decks, cloths) as boxes: middle, half edges, and how they are turned. */
  boxes(most: number): { middle: THREE.Vector3; half: THREE.Vector3; turn: [number, number, number, number] }[] {
    const found: { middle: THREE.Vector3; half: THREE.Vector3; turn: [number, number, number, number]; area: number }[] = [];
    for (const { ids, matrices, box } of this.groups) {
      const solid = this.get(ids[0] ?? "");
      if (solid?.kind !== "deck" || solid.sheer[0] > 0) continue;
      ids.forEach((id, i) => {
        const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
        // A fascia stands back from the edge: what is on it must not be inside.
        half.set(...(half.toArray().map((one) => one - Math.min(FASCIA_M, one * 0.3)) as [number, number, number]));
        const middle = box.getCenter(new THREE.Vector3()).applyMatrix4(new THREE.Matrix4().fromArray(matrices, i * 16));
        const sides = [half.x, half.y, half.z].sort((a, b) => b - a) as [number, number, number];
        found.push({ middle, half, turn: this.get(id)?.rotation ?? [0, 0, 0, 1], area: sides[0] * sides[1] });
      });
    }
    return found.sort((a, b) => b.area - a.area).slice(0, most);
  }

  /** What things of these kinds cover in an elevation, as convex outlines; kept until something stands elsewhere. */
  silhouettes(along: "x" | "y", kinds: ReadonlySet<string>): Upright[][] {
    if (this.seen.version !== this.version || this.seen.along !== along) {
      const outlines = this.groups.flatMap(({ whole, ids, matrices }) =>
        ids.flatMap((id, at) => (kinds.has(this.get(id)?.kind ?? "") ? [silhouette(whole.geometry, new THREE.Matrix4().fromArray(matrices, at * 16), along)] : [])),
      );
      this.seen = { version: this.version, along, outlines };
    }
    return this.seen.outlines;
  }

  /** Nothing is built. */
  get empty(): boolean {
    return this.solids.size === 0;
  }

  /** The box round all that is built, with the rooms round it or without; null where there is nothing. */
  built(rooms: boolean): THREE.Box3 | null {
    const whole = new THREE.Box3();
    const groups = this.groups.filter(({ ids }) => rooms || !isA(this.get(ids[0] ?? "")?.kind, "around"));
    for (const { box, ids, matrices } of groups) for (let i = 0; i < ids.length; i++) whole.union(box.clone().applyMatrix4(new THREE.Matrix4().fromArray(matrices, i * 16)));
    return whole.isEmpty() ? null : whole;
  }

  /** The box around a solid in the show's frame. */
  bounds(id: string): THREE.Box3 | null {
    for (const { box, ids, matrices } of this.groups) {
      const at = ids.indexOf(id);
      if (at < 0) continue;
      return box.clone().applyMatrix4(new THREE.Matrix4().fromArray(matrices, at * 16));
    }
    return this.boundsOfAll(`${id}/`);
  }

  /** The box around all solids of a group, as a crowd is. */
  private boundsOfAll(start: string): THREE.Box3 | null {
    const whole = new THREE.Box3();
    const matrix = new THREE.Matrix4();
    for (const { box, ids, matrices } of this.groups) {
      ids.forEach((id, at) => {
        if (id.startsWith(start)) whole.union(box.clone().applyMatrix4(matrix.fromArray(matrices, at * 16)));
      });
    }
    return whole.isEmpty() ? null : whole;
  }
}
