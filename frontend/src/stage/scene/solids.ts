import * as THREE from "three";
import type { Body, Mounted, Solid } from "../data";
import BEAM from "../light/beam.glsl?raw";
import STATE from "../light/state.glsl?raw";
import FACES from "../light/faces.frag.glsl?raw";
import SURFACE from "../light/surface.glsl?raw";
import SOLID_VERTEX from "../light/solid.vert.glsl?raw";
import BODY_VERTEX from "../light/body.vert.glsl?raw";
import { type BeamState, STANDS } from "./beams";
import { silhouette, type Upright } from "./silhouettes";
import type { MeshStore } from "./meshes";

/** Further than this from the eye a thing is drawn by its simpler mesh, metres. */
const NEAR_M = { moving: 4, usual: 14, still: 45 } as const;
const FAR_AGAIN_M = 1;
const FASCIA_M = 0.1;
/** As light/faces.frag.glsl counts them. */
const FINISHES = ["plain", "black", "gloss", "timber", "cloth", "brick", "steel", "people"];

const CASTER_VERTEX = `
in vec3 position; in mat4 instanceMatrix;
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

/** A number of its own for each thing, 0..1, so that people are not all alike. */
function ownNumber(id: string): number {
  let hash = 2166136261;
  for (let i = 0; i < id.length; i++) hash = Math.imul(hash ^ id.charCodeAt(i), 16777619);
  return (hash >>> 8) / 16777216;
}

interface Group {
  ids: string[];
  near: THREE.InstancedMesh;
  /** The simpler mesh, where there is one; which instance is drawn by which is settled for each camera. */
  far: THREE.InstancedMesh | null;
  matrices: Float32Array;
  tints: Float32Array;
  caster: THREE.InstancedMesh | null;
}

/** Everything that has a surface: one instanced draw for each mesh, whatever the number of things. */
export class Solids {
  readonly scene = new THREE.Scene();
  /** What throws shadows, in its simplest form. */
  readonly casters = new THREE.Scene();
  readonly casterUniforms: Uniforms = { uLight: { value: new THREE.Matrix4() } };
  private changes = 0;
  private standing: { number: number; solids: readonly Solid[] } = { number: 0, solids: [] };
  /** What stands elsewhere now: its group, its place in it, and the matrix that it has by itself. */
  private stood: { group: Group; at: number; own: Float32Array }[] = [];
  /** Balls round everything that stood or now stands elsewhere since they were taken. */
  private moved: THREE.Sphere[] = [];
  private solids = new Map<string, Solid>();
  private override = new Map<string, Solid>();
  private groups: Group[] = [];
  private placed = new Map<string, { solid: Solid; ball: THREE.Sphere }>();
  private bodyMeshes: THREE.Mesh[] = [];
  private building = 0;
  private lastEye = new THREE.Vector3(1e9, 0, 0);
  private lastVersion = -1;
  private lastNear = 0;
  private seen: { version: number; along: string; outlines: Upright[][] } = { version: -1, along: "", outlines: [] };
  private readonly surface: THREE.RawShaderMaterial;
  /** Of structures: tubes that would be thinner than a pixel are drawn as wide as one. */
  private readonly thin: THREE.RawShaderMaterial;
  private readonly casting: THREE.RawShaderMaterial;

  constructor(
    private readonly meshes: MeshStore,
    private readonly uniforms: Uniforms,
    private readonly changed: () => void,
  ) {
    this.scene.matrixWorldAutoUpdate = this.casters.matrixWorldAutoUpdate = false;
    this.thin = material(`#define THIN\n${SOLID_VERTEX}`, `${SURFACE}\n${FACES}`, uniforms);
    this.surface = material(SOLID_VERTEX, `${SURFACE}\n${FACES}`, uniforms);
    this.casting = material(CASTER_VERTEX, CASTER_FRAGMENT, this.casterUniforms, { colorWrite: false, side: THREE.DoubleSide });
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
    for (const { group, at, own } of this.stood) this.putMatrix(group, at, own);
    this.stood = [];
    this.takeStand();
  }

  private takeStand(): void {
    const matrix = new THREE.Matrix4();
    for (const solid of this.standing.solids) {
      const group = this.groups.find(({ ids }) => ids.includes(solid.id));
      const at = group?.ids.indexOf(solid.id) ?? -1;
      if (!group || at < 0) continue;
      this.stood.push({ group, at, own: group.matrices.slice(at * 16, at * 16 + 16) });
      matrix.compose(new THREE.Vector3(...solid.position), new THREE.Quaternion(...solid.rotation), new THREE.Vector3(solid.scale, solid.scale, solid.scale));
      this.putMatrix(group, at, matrix.elements);
    }
  }

  private putMatrix({ near, far, caster, matrices }: Group, at: number, matrix: ArrayLike<number>): void {
    matrices.set(matrix, at * 16);
    // What is drawn near or far is sorted anew for the camera.
    for (const mesh of far ? [caster] : [near, caster]) {
      if (!mesh) continue;
      mesh.instanceMatrix.array.set(matrix, at * 16);
      mesh.instanceMatrix.needsUpdate = true;
      mesh.boundingSphere = null;
    }
  }

  setSolids(solids: Solid[]): void {
    this.solids = new Map(solids.map((solid) => [solid.id, solid]));
    void this.rebuild();
  }

  setOverride(solids: Solid[]): void {
    if (!solids.length && !this.override.size) return;
    this.override = new Map(solids.map((solid) => [solid.id, solid]));
    void this.rebuild();
  }

  get(id: string): Solid | undefined {
    return this.override.get(id) ?? this.solids.get(id);
  }

  all(): Solid[] {
    const shown = [...this.solids.values()].map((solid) => this.override.get(solid.id) ?? solid);
    for (const solid of this.override.values()) if (!this.solids.has(solid.id)) shown.push(solid);
    return shown;
  }

  private async rebuild(): Promise<void> {
    const build = ++this.building;
    const byMesh = new Map<string, Solid[]>();
    for (const solid of this.all()) {
      const list = byMesh.get(solid.mesh);
      if (list) list.push(solid);
      else byMesh.set(solid.mesh, [solid]);
    }
    const loaded = await Promise.all(
      [...byMesh].map(async ([key, list]) => {
        const far = list[0]?.far ?? null;
        return { list, near: await this.meshes.get(key), far: far ? await this.meshes.get(far) : null };
      }),
    );
    if (build !== this.building) return;
    for (const group of this.groups) {
      for (const mesh of [group.near, group.far, group.caster]) {
        mesh?.removeFromParent();
        mesh?.geometry.dispose();
        mesh?.dispose();
      }
    }
    const before = this.placed;
    this.placed = new Map();
    this.groups = loaded.map(({ list, near, far }) => this.group(list, near, far));
    this.noteMoved(before);
    this.stood = [];
    this.takeStand();
    this.changes += 1;
    this.changed();
  }

  private noteMoved(before: Map<string, { solid: Solid; ball: THREE.Sphere }>): void {
    const same = (a: Solid, b: Solid) =>
      a.mesh === b.mesh && a.scale === b.scale && a.position.every((part, i) => part === b.position[i]) && a.rotation.every((part, i) => part === b.rotation[i]);
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

  private instanced(source: THREE.BufferGeometry, count: number, tinted: boolean, what: THREE.Material): THREE.InstancedMesh {
    const geometry = new THREE.BufferGeometry();
    for (const name of tinted ? ["position", "normal", "part"] : ["position"]) geometry.setAttribute(name, source.getAttribute(name));
    geometry.setIndex(source.getIndex());
    geometry.boundingSphere = source.boundingSphere;
    geometry.boundsTree = source.boundsTree;
    if (tinted) {
      geometry.setAttribute("tint", new THREE.InstancedBufferAttribute(new Float32Array(count * 4), 4));
      geometry.setAttribute("finish", new THREE.InstancedBufferAttribute(new Float32Array(count), 1));
    }
    const mesh = new THREE.InstancedMesh(geometry, what, count);
    mesh.frustumCulled = false;
    return mesh;
  }

  private group(list: Solid[], source: THREE.BufferGeometry, farSource: THREE.BufferGeometry | null): Group {
    const what = list[0]?.kind === "truss" ? this.thin : this.surface;
    const near = this.instanced(source, list.length, true, what);
    const far = farSource && this.instanced(farSource, list.length, true, what);
    const matrix = new THREE.Matrix4();
    const matrices = new Float32Array(list.length * 16);
    const tints = new Float32Array(list.length * 4);
    list.forEach((solid, i) => {
      matrix.compose(new THREE.Vector3(...solid.position), new THREE.Quaternion(...solid.rotation), new THREE.Vector3(solid.scale, solid.scale, solid.scale));
      matrix.toArray(matrices, i * 16);
      tints.set([...solid.albedo, ownNumber(solid.id)], i * 4);
      this.placed.set(solid.id, { solid, ball: (source.boundingSphere as THREE.Sphere).clone().applyMatrix4(matrix) });
    });
    near.instanceMatrix.array.set(matrices);
    (near.geometry.getAttribute("tint").array as Float32Array).set(tints);
    // What has a simpler mesh is people, all of one finish: however they are sorted, it stays.
    for (const mesh of far ? [near, far] : [near]) (mesh.geometry.getAttribute("finish").array as Float32Array).set(list.map((solid) => Math.max(FINISHES.indexOf(solid.finish), 0)));
    let caster: THREE.InstancedMesh | null = null;
    // A room keeps the light in; it throws no shadow into itself.
    if (list[0]?.kind !== "venue") {
      caster = this.instanced(farSource ?? source, list.length, false, this.casting);
      caster.instanceMatrix.array.set(matrices);
      this.casters.add(caster);
    }
    this.scene.add(near);
    if (far) {
      far.count = 0;
      this.scene.add(far);
    }
    return { ids: list.map((solid) => solid.id), near, far, matrices, tints, caster };
  }

  /** Settle for a camera what is drawn by which mesh: near things whole, far ones simply; sooner while it moves. */
  prepare(eye: THREE.Vector3, orthographic: boolean, near: keyof typeof NEAR_M = "usual"): void {
    const near2 = NEAR_M[near] ** 2;
    const from = orthographic ? new THREE.Vector3(0, 0, 1e6) : eye;
    if (this.lastVersion === this.version && this.lastNear === near2 && from.distanceTo(this.lastEye) < FAR_AGAIN_M) return;
    this.lastEye.copy(from);
    this.lastVersion = this.version;
    this.lastNear = near2;
    for (const { near: whole, far, matrices, tints } of this.groups) {
      if (!far) continue;
      let nearCount = 0;
      let farCount = 0;
      for (let i = 0; i * 16 < matrices.length; i++) {
        const dx = (matrices[i * 16 + 12] as number) - from.x;
        const dy = (matrices[i * 16 + 13] as number) - from.y;
        const dz = (matrices[i * 16 + 14] as number) - from.z;
        const close = dx * dx + dy * dy + dz * dz < near2;
        const mesh = close ? whole : far;
        const at = close ? nearCount++ : farCount++;
        mesh.instanceMatrix.array.set(matrices.subarray(i * 16, i * 16 + 16), at * 16);
        (mesh.geometry.getAttribute("tint").array as Float32Array).set(tints.subarray(i * 4, i * 4 + 4), at * 4);
      }
      whole.count = nearCount;
      far.count = farCount;
      for (const mesh of [whole, far]) {
        mesh.instanceMatrix.needsUpdate = true;
        mesh.geometry.getAttribute("tint").needsUpdate = true;
      }
    }
  }

  /** The bodies of fixtures, posed in the vertex shader from the beam state. */
  async setBodies(mounted: Mounted[], bodies: Body[], state: BeamState): Promise<void> {
    const made: THREE.Mesh[] = [];
    for (const body of bodies) {
      const rows = mounted.filter((one) => one.body === body.key).map((one) => state.rowOf(one.id));
      const beams = new Float32Array(rows.filter((row) => row !== undefined));
      for (const part of body.parts) {
        const source = await this.meshes.get(part.mesh);
        const geometry = new THREE.InstancedBufferGeometry();
        for (const name of ["position", "normal"]) geometry.setAttribute(name, source.getAttribute(name));
        geometry.setIndex(source.getIndex());
        geometry.setAttribute("beam", new THREE.InstancedBufferAttribute(beams, 1));
        geometry.instanceCount = beams.length;
        const what = material(`${BEAM}\n${STATE}\n${BODY_VERTEX}`, `${SURFACE}\n${FACES}`, { ...this.uniforms, uTurns: { value: part.turns } });
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
    for (const mesh of made) this.scene.add(mesh);
    this.changed();
  }

  /** The nearest surface that a ray meets: where, whose, how it faces (towards where the ray came from). */
  hit(ray: THREE.Raycaster, people = true): { point: THREE.Vector3; normal: THREE.Vector3; id: string; distance: number } | null {
    let best: { at: THREE.Intersection; id: string; matrix: THREE.Matrix4 } | null = null;
    for (const { caster, near, far, ids, matrices } of this.groups) {
      // A crowd is looked through one by one: who throws many rays leaves it out.
      if (!people && far) continue;
      // Casters hold all instances in the order of the ids; a room has none, and is drawn by its near mesh alone.
      const mesh = caster ?? near;
      for (const at of ray.intersectObject(mesh, false)) {
        const i = at.instanceId ?? 0;
        const id = ids[i];
        if (id !== undefined && (!best || at.distance < best.at.distance)) best = { at, id, matrix: new THREE.Matrix4().fromArray(matrices, i * 16) };
      }
    }
    if (!best) return null;
    const normal = (best.at.face?.normal ?? new THREE.Vector3(0, 0, 1)).clone().transformDirection(best.matrix);
    if (normal.dot(ray.ray.direction) > 0) normal.negate();
    return { point: best.at.point, normal, id: best.id, distance: best.at.distance };
  }

  /** The largest flat things (decks, cloths) as boxes: middle, half edges, and how they are turned. */
  boxes(most: number): { middle: THREE.Vector3; half: THREE.Vector3; turn: [number, number, number, number] }[] {
    const found: { middle: THREE.Vector3; half: THREE.Vector3; turn: [number, number, number, number]; area: number }[] = [];
    for (const { near, ids, matrices } of this.groups) {
      const solid = this.get(ids[0] ?? "");
      if (solid?.kind !== "deck") continue;
      near.geometry.computeBoundingBox();
      const box = near.geometry.boundingBox as THREE.Box3;
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
      const outlines = this.groups.flatMap(({ near, ids, matrices }) =>
        ids.flatMap((id, at) => (kinds.has(this.get(id)?.kind ?? "") ? [silhouette(near.geometry, new THREE.Matrix4().fromArray(matrices, at * 16), along)] : [])),
      );
      this.seen = { version: this.version, along, outlines };
    }
    return this.seen.outlines;
  }

  /** The box around a solid in the show's frame. */
  bounds(id: string): THREE.Box3 | null {
    for (const { near, ids, matrices } of this.groups) {
      const at = ids.indexOf(id);
      if (at < 0) continue;
      near.geometry.computeBoundingBox();
      return (near.geometry.boundingBox as THREE.Box3).clone().applyMatrix4(new THREE.Matrix4().fromArray(matrices, at * 16));
    }
    return this.boundsOfAll(`${id}/`);
  }

  /** The box around all solids of a group, as a crowd is. */
  private boundsOfAll(start: string): THREE.Box3 | null {
    const whole = new THREE.Box3();
    const matrix = new THREE.Matrix4();
    for (const { near, ids, matrices } of this.groups) {
      near.geometry.computeBoundingBox();
      ids.forEach((id, at) => {
        if (id.startsWith(start)) whole.union((near.geometry.boundingBox as THREE.Box3).clone().applyMatrix4(matrix.fromArray(matrices, at * 16)));
      });
    }
    return whole.isEmpty() ? null : whole;
  }
}
