import * as THREE from "three";

const SPAN = 1024;

/** One lit patch of a surface: how much light it gives back. */
export interface Patch {
  point: THREE.Vector3;
  normal: THREE.Vector3;
  flux: [number, number, number];
  area: number;
}

/** The cell that a patch lies in and which way it faces, as one whole number, exact in a double. */
function cellOf({ point, normal }: Patch, cell: number): number {
  const facing = (Math.round(normal.x) + 1) * 9 + (Math.round(normal.y) + 1) * 3 + Math.round(normal.z) + 1;
  const along = (key: number, part: number) => key * SPAN + Math.floor(part / cell) + SPAN / 2;
  return along(along(along(facing, point.x), point.y), point.z);
}

function inCells(patches: Patch[], cell: number): Map<number, Patch[]> {
  const cells = new Map<number, Patch[]>();
  for (const patch of patches) {
    const place = cellOf(patch, cell);
    const list = cells.get(place);
    if (list) list.push(patch);
    else cells.set(place, [patch]);
  }
  return cells;
}

/** Whether patches lie in at most so many cells. */
function fits(patches: Patch[], cell: number, most: number): boolean {
  const cells = new Set<number>();
  for (const patch of patches) {
    cells.add(cellOf(patch, cell));
    if (cells.size > most) return false;
  }
  return true;
}

/**
 * Patches that lie close and face alike become one, in the smallest cells that leave few enough. Where many of them are of the
 * same place (`overlapping`) one is no larger than its cell.
 */
export function merged(patches: Patch[], most: number, overlapping = false): Patch[] {
  let cell = 0.36;
  while (!fits(patches, cell, most)) cell *= 1.6;
  if (fits(patches, cell * 0.78, most)) cell *= 0.78;
  const cells = inCells(patches, cell);
  const widest = overlapping ? cell * cell : Infinity;
  return [...cells.values()].map((list) => {
    const flux: [number, number, number] = [0, 0, 0];
    const point = new THREE.Vector3();
    const normal = new THREE.Vector3();
    let whole = 0;
    for (const one of list) {
      const weight = one.flux[0] + one.flux[1] + one.flux[2] + 1e-9;
      for (let c = 0; c < 3; c++) flux[c] = (flux[c] as number) + (one.flux[c] as number);
      point.addScaledVector(one.point, weight);
      normal.addScaledVector(one.normal, weight);
      whole += weight;
    }
    point.divideScalar(whole);
    // Several pools on one place cover it once; several beside each other cover more.
    let spread = 0;
    let area = 0;
    for (const one of list) {
      spread = Math.max(spread, one.point.distanceTo(point) + Math.sqrt(one.area / Math.PI));
      area += one.area;
    }
    return { point, normal: normal.normalize(), flux, area: Math.min(area, Math.PI * spread * spread, widest) };
  });
}
