import * as THREE from "three";

/** A place in an elevation: across (or upstage) and up, metres. */
export type Upright = [number, number];

/** The convex hull of points, anticlockwise, without points on its lines (Andrew's monotone chain). */
export function hullOf(points: readonly Upright[]): Upright[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (list: Upright[]): Upright[] => {
    const chain: Upright[] = [];
    for (const point of list) {
      for (let n = chain.length; n >= 2; n = chain.length) {
        const [a, b] = [chain[n - 2] as Upright, chain[n - 1] as Upright];
        if ((b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0]) > 1e-9) break;
        chain.pop();
      }
      chain.push(point);
    }
    return chain.slice(0, -1);
  };
  return [...half(sorted), ...half(sorted.reverse())];
}

/** What a mesh at a place covers when it is looked at along y ("x": across and up) or along x ("y": upstage and up). */
export function silhouette(geometry: THREE.BufferGeometry, matrix: THREE.Matrix4, along: "x" | "y"): Upright[] {
  const places = geometry.getAttribute("position");
  const at = new THREE.Vector3();
  const points: Upright[] = [];
  for (let i = 0; i < places.count; i++) {
    at.fromBufferAttribute(places, i).applyMatrix4(matrix);
    points.push([Number(at[along].toFixed(4)), Number(at.z.toFixed(4))]);
  }
  return hullOf(points);
}
