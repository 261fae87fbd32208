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

/** Meshes by key, fetched once each. */
export class MeshStore {
  private readonly byKey = new Map<string, Promise<THREE.BufferGeometry>>();
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
}
