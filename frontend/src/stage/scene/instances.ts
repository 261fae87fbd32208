import * as THREE from "three";
import type { MeshBVH } from "three-mesh-bvh";
import type { Solid } from "../data";
import { CUT_STEP, type Cutaway, GONE } from "./cutaway";
import type { Small } from "./baked";

/** As light/faces.frag.glsl counts them. */
const FINISHES = ["plain", "black", "gloss", "timber", "cloth", "brick", "steel", "people", "gauze", "black gauze", "translucent"];
const MATRIX = 16;

/** A number of its own for each thing, 0..1, so that people are not all alike. */
function ownNumber(id: string): number {
  let hash = 2166136261;
  for (let i = 0; i < id.length; i++) hash = Math.imul(hash ^ id.charCodeAt(i), 16777619);
  return (hash >>> 8) / 16777216;
}

function instanced(source: THREE.BufferGeometry, count: number, tinted: boolean, what: THREE.Material): THREE.InstancedMesh {
  const geometry = new THREE.BufferGeometry();
  for (const name of tinted ? ["position", "normal", "part"] : ["position"]) geometry.setAttribute(name, source.getAttribute(name));
  geometry.setIndex(source.getIndex());
  geometry.boundingSphere = source.boundingSphere;
  geometry.boundsTree = source.boundsTree;
  if (tinted) {
    geometry.setAttribute("tint", new THREE.InstancedBufferAttribute(new Float32Array(count * 4), 4));
    geometry.setAttribute("finish", new THREE.InstancedBufferAttribute(new Float32Array(count * 3), 3));
  }
  const mesh = new THREE.InstancedMesh(geometry, what, count);
  mesh.frustumCulled = false;
  return mesh;
}

/** A solid's own matrix. */
export function matrixOf({ position, rotation, scale }: Solid): THREE.Matrix4 {
  return new THREE.Matrix4().compose(new THREE.Vector3(...position), new THREE.Quaternion(...rotation), new THREE.Vector3(scale, scale, scale));
}

/** A mesh at each level of detail, whole first, and what it is drawn and cast with. */
export interface Look {
  levels: readonly THREE.BufferGeometry[];
  surface: THREE.Material;
  casting: THREE.Material | null;
  /** The number of its first thing where the simplest level and the shadows are baked (baked.ts). */
  bakedFrom: number | null;
}

/** What is drawn, or throws shadows, of what is baked: numbers are added while things are gone through. */
export type Chosen = number[];

/** A cone that light fills: from where, along what, and the tangent of its half angle. */
export interface Cone {
  apex: THREE.Vector3;
  along: THREE.Vector3;
  reach: number;
}

/** Whether a ball reaches into a cone. */
export function reaches({ apex, along, reach }: Cone, x: number, y: number, z: number, radius: number): boolean {
  const [dx, dy, dz] = [x - apex.x, y - apex.y, z - apex.z];
  const ahead = dx * along.x + dy * along.y + dz * along.z;
  if (ahead < -radius) return false;
  const across = Math.sqrt(Math.max(dx * dx + dy * dy + dz * dz - ahead * ahead, 0));
  return across < Math.max(ahead, 0) * reach + radius * Math.sqrt(1 + reach * reach);
}

/** What a ray met: which of some things, how far on, and its face towards where the ray came from. */
export interface Struck {
  at: number;
  distance: number;
  normal: THREE.Vector3;
}

/** All things of one mesh: one draw for each level of detail but what is baked, of those that are in the picture; one for shadows. */
export class Instances {
  readonly ids: readonly string[];
  readonly matrices: Float32Array;
  readonly levels: readonly THREE.InstancedMesh[];
  readonly caster: THREE.InstancedMesh | null = null;
  /** Where each is on the whole: middle and radius, metres. */
  private readonly balls: Float32Array;
  private readonly tints: Float32Array;
  private readonly finishes: Float32Array;
  private readonly ball: THREE.Sphere;
  private readonly bakedFrom: number | null;
  private readonly simplest: THREE.BufferGeometry;
  /** A room is seen into from outside: what throws no shadow is met from its front alone. */
  private readonly side: THREE.Side;
  /** Some of them may be left out where they stand in the way. */
  private readonly screens: boolean;
  /** Of the triangles that rays meet. */
  private readonly tree: MeshBVH;

  constructor(list: readonly Solid[], { levels, surface, casting, bakedFrom }: Look) {
    const whole = levels[0] as THREE.BufferGeometry;
    const count = list.length;
    this.ids = list.map((solid) => solid.id);
    this.ball = whole.boundingSphere as THREE.Sphere;
    this.matrices = new Float32Array(count * MATRIX);
    this.balls = new Float32Array(count * 4);
    this.tints = new Float32Array(list.flatMap((solid) => [...solid.albedo, ownNumber(solid.id)]));
    this.finishes = new Float32Array(list.flatMap(({ finish, sheer }) => [Math.max(FINISHES.indexOf(finish), 0), ...sheer]));
    this.screens = list.some((solid) => solid.screens);
    this.bakedFrom = bakedFrom;
    this.simplest = levels[levels.length - 1] as THREE.BufferGeometry;
    this.levels = (bakedFrom === null ? levels : levels.slice(0, -1)).map((one) => instanced(one, count, true, surface));
    this.side = casting ? THREE.DoubleSide : THREE.FrontSide;
    this.tree = (levels[1] ?? whole).boundsTree as MeshBVH;
    if (casting && bakedFrom === null) this.caster = instanced(this.simplest, count, false, casting);
    list.forEach((solid, i) => this.put(i, matrixOf(solid).elements));
    this.sort(() => 0, []);
  }

  /** What is to be baked of them, in the order of their ids. */
  small(): Small[] {
    return this.ids.map((_, i) => ({
      mesh: this.simplest, matrix: this.matrices.subarray(i * MATRIX, (i + 1) * MATRIX), tint: this.tints.subarray(i * 4, i * 4 + 4), finish: this.finishes[i * 3] as number,
    }));
  }

  /** The number of a thing in what is baked; null where these are not. */
  numberOf(at: number): number | null {
    return this.bakedFrom === null ? null : this.bakedFrom + at;
  }

  /** The whole mesh, not one of its copies in particular. */
  get whole(): THREE.InstancedMesh {
    return this.levels[0] as THREE.InstancedMesh;
  }

  /** The box round the mesh by itself. */
  get box(): THREE.Box3 {
    const { geometry } = this.whole;
    if (!geometry.boundingBox) geometry.computeBoundingBox();
    return geometry.boundingBox as THREE.Box3;
  }

  /** They are people: many, and each with simpler meshes. */
  get crowd(): boolean {
    return this.levels.length > 1;
  }

  /** They hide what is behind them: walls, flats, rooms. */
  get inWay(): boolean {
    return this.screens || this.side === THREE.FrontSide;
  }

  get count(): number {
    return this.ids.length;
  }

  /** Where one stands from now on; what is drawn of it follows when it is sorted next. */
  put(at: number, matrix: ArrayLike<number>): void {
    this.matrices.set(matrix, at * MATRIX);
    const place = new THREE.Matrix4().fromArray(this.matrices, at * MATRIX);
    const { center, radius } = this.ball.clone().applyMatrix4(place);
    this.balls.set([center.x, center.y, center.z, radius], at * 4);
  }

  ballOf(at: number): THREE.Sphere {
    const [x, y, z, radius] = this.balls.subarray(at * 4, at * 4 + 4) as unknown as [number, number, number, number];
    return new THREE.Sphere(new THREE.Vector3(x, y, z), radius);
  }

  /** Settle which is drawn at which level: `level` says it by the middle and radius of each; below 0 for not at all. */
  sort(level: (x: number, y: number, z: number, radius: number) => number, far: Chosen, cut?: Cutaway): void {
    const { balls, levels } = this;
    const cutting = this.screens ? cut : undefined;
    for (const mesh of levels) mesh.count = 0;
    for (let i = 0; i < this.count; i++) {
      const how = cutting?.of(this.ids[i] ?? "") ?? 0;
      const at = how === GONE ? -1 : level(balls[i * 4] as number, balls[i * 4 + 1] as number, balls[i * 4 + 2] as number, balls[i * 4 + 3] as number);
      if (at >= levels.length && this.bakedFrom !== null) far.push(this.bakedFrom + i);
      const mesh = levels[this.bakedFrom === null ? Math.min(at, levels.length - 1) : at];
      if (!mesh) continue;
      const to = mesh.count++;
      this.copy(i, mesh, to);
      (mesh.geometry.getAttribute("tint").array as Float32Array).set(this.tints.subarray(i * 4, i * 4 + 4), to * 4);
      const finish = mesh.geometry.getAttribute("finish").array as Float32Array;
      finish.set(this.finishes.subarray(i * 3, i * 3 + 3), to * 3);
      finish[to * 3] = (this.finishes[i * 3] as number) + CUT_STEP * how;
    }
    for (const mesh of levels) {
      mesh.visible = mesh.count > 0;
      if (!mesh.visible) continue;
      mesh.instanceMatrix.needsUpdate = true;
      for (const name of ["tint", "finish"]) mesh.geometry.getAttribute(name).needsUpdate = true;
    }
  }

  private copy(from: number, mesh: THREE.InstancedMesh, to: number): void {
    mesh.instanceMatrix.array.set(this.matrices.subarray(from * MATRIX, from * MATRIX + MATRIX), to * MATRIX);
  }

  /** Let only those throw shadows that a cone reaches; of what is baked, their numbers are added to `small`. */
  cast(cone: Cone, small: Chosen): void {
    const { caster, balls } = this;
    if (!caster && this.bakedFrom === null) return;
    if (caster) caster.count = 0;
    for (let i = 0; i < this.count; i++) {
      if (!reaches(cone, balls[i * 4] as number, balls[i * 4 + 1] as number, balls[i * 4 + 2] as number, balls[i * 4 + 3] as number)) continue;
      if (caster) this.copy(i, caster, caster.count++);
      else small.push((this.bakedFrom as number) + i);
    }
    if (!caster) return;
    caster.visible = caster.count > 0;
    if (caster.visible) caster.instanceMatrix.needsUpdate = true;
  }

  /** The nearest of them that a ray meets before `most` metres, and the normal of its face; null where none is. */
  hit({ origin, direction }: THREE.Ray, least: number, most: number, cut?: Cutaway): Struck | null {
    const { balls } = this;
    const cutting = this.screens ? cut : undefined;
    let found: Struck | null = null;
    for (let i = 0; i < this.count; i++) {
      // Whether the ray passes through its ball, and not only behind what was met already.
      const dx = (balls[i * 4] as number) - origin.x, dy = (balls[i * 4 + 1] as number) - origin.y, dz = (balls[i * 4 + 2] as number) - origin.z;
      const radius = balls[i * 4 + 3] as number;
      const ahead = dx * direction.x + dy * direction.y + dz * direction.z;
      if (ahead < -radius || ahead - radius > most || dx * dx + dy * dy + dz * dz - ahead * ahead > radius * radius) continue;
      const matrix = new THREE.Matrix4().fromArray(this.matrices, i * MATRIX);
      const own = new THREE.Ray(origin.clone(), direction.clone()).applyMatrix4(matrix.clone().invert());
      const scale = 1 / matrix.getMaxScaleOnAxis();
      const id = this.ids[i] ?? "";
      const met = cutting?.of(id)
        ? // As it is drawn: without the faces that look away.
        this.tree.raycast(own, THREE.FrontSide, least * scale, most * scale).sort((a, b) => a.distance - b.distance).find((one) => !this.hides(cutting, id, one, matrix))
        : this.tree.raycastFirst(own, this.side, least * scale, most * scale);
      if (!met) continue;
      most = met.distance / scale;
      const normal = (met.face?.normal ?? new THREE.Vector3(0, 0, 1)).clone().transformDirection(matrix);
      if (normal.dot(direction) > 0) normal.negate();
      found = { at: i, distance: most, normal };
    }
    return found;
  }

  private hides(cut: Cutaway, id: string, { point, face }: THREE.Intersection, matrix: THREE.Matrix4): boolean {
    if (!face) return false;
    const part = this.whole.geometry.getAttribute("part").getX(face.a);
    const normal = face.normal.clone().transformDirection(matrix);
    return cut.hides(id, { point: point.clone().applyMatrix4(matrix), normal, own: point.z, part });
  }

  dispose(): void {
    for (const mesh of [...this.levels, this.caster]) {
      mesh?.removeFromParent();
      mesh?.geometry.dispose();
      mesh?.dispose();
    }
  }
}
