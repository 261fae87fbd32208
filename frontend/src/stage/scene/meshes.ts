import * as THREE from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";

// Rays through meshes of many triangles go down a tree; built once for each mesh, when it comes.
THREE.Mesh.prototype.raycast = acceleratedRaycast;

/**
 * Reads the mesh bytes of core/mesh.py: "ZMSH", version, vertex and index counts (u32), positions, normals, parts (what a
 * vertex is coloured by), indices.
 */
export function readMesh(data: ArrayBuffer): THREE.BufferGeometry {
  const head = new DataView(data);
  if (data.byteLength < 16 || head.getUint32(0, false) !== 0x5a4d5348 || head.getUint32(4, true) !== 2) {
    throw new Error("A mesh came in a form that this version does not know: load the page again.");
  }
  const vertices = head.getUint32(8, true);
  const indices = head.getUint32(12, true);
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(new Float32Array(data, 16, vertices * 3), 3));
  geometry.setAttribute("normal", new THREE.BufferAttribute(new Float32Array(data, 16 + vertices * 12, vertices * 3), 3));
  geometry.setAttribute("part", new THREE.BufferAttribute(new Float32Array(data, 16 + vertices * 24, vertices), 1));
  geometry.setIndex(new THREE.BufferAttribute(new Uint32Array(data, 16 + vertices * 28, indices), 1));
  geometry.computeBoundingSphere();
  geometry.boundsTree = new MeshBVH(geometry, { indirect: true });
  return geometry;
}

/** How many meshes are kept that nobody has: what is typed goes back and forth. */
const LATE = 24;

/** Meshes by key, fetched once each, and let go when nobody has them. */
export class MeshStore {
  private readonly byKey = new Map<string, Promise<THREE.BufferGeometry>>();
  private readonly owned = new Map<string, ReadonlySet<string>>();
  /** What nobody has, the longest first. */
  private readonly late = new Set<string>();
  constructor(private readonly fetchMesh: (key: string) => Promise<ArrayBuffer>) {}

  get(key: string): Promise<THREE.BufferGeometry> {
    let found = this.byKey.get(key);
    if (!found) {
      found = this.fetchMesh(key).then(readMesh);
      // A failed fetch may be tried again with the next change.
      found.catch(() => this.byKey.delete(key));
      this.byKey.set(key, found);
    }
    return found;
  }

  /** Let an owner have these meshes, in place of those that it had: to be said when what was drawn before is gone. */
  keep(owner: string, keys: Iterable<string>): void {
    const now = new Set(keys);
    const before = this.owned.get(owner);
    this.owned.set(owner, now);
    for (const key of now) this.late.delete(key);
    const held = (key: string) => [...this.owned.values()].some((one) => one.has(key));
    for (const key of before ?? []) if (!now.has(key) && !held(key)) this.late.add(key);
    for (const key of this.late) {
      if (this.late.size <= LATE) break;
      this.late.delete(key);
      void this.byKey.get(key)?.then((geometry) => geometry.dispose());
      this.byKey.delete(key);
    }
  }

  /** How many are kept. */
  get size(): number {
    return this.byKey.size;
  }
}
