import * as THREE from "three";
import type { Vec3, ViewName } from "../data";

/** Where a pane looks from. Orthographic views keep `height` metres in view. */
export interface Viewpoint {
  view: ViewName;
  eye: THREE.Vector3;
  target: THREE.Vector3;
  height: number;
}

// Direction of sight and up of each drawn view, in the trade's sense: front looks upstage.
const DRAWN: Record<Exclude<ViewName, "free">, { look: Vec3; up: Vec3 }> = {
  plan: { look: [0, 0, -1], up: [0, 1, 0] },
  front: { look: [0, 1, 0], up: [0, 0, 1] },
  back: { look: [0, -1, 0], up: [0, 0, 1] },
  // Cut through its target (at first the centre line), looking to stage left: what is nearer is not drawn.
  section: { look: [1, 0, 0], up: [0, 0, 1] },
  left: { look: [1, 0, 0], up: [0, 0, 1] },
  right: { look: [-1, 0, 0], up: [0, 0, 1] },
};

const CORNERS = [0, 1, 2, 3, 4, 5, 6, 7].map((i) => [i & 1, i & 2, i & 4] as const);
const FAR_M = 300;
/** Nearer to a face than this the wheel goes on by steps, so many metres for a factor of e. */
const CLOSE_M = 0.5;
const THROUGH_M = 2.5;
/** What is tried where a wall is in the way of what is framed: round it to either side and over it, radians; then nearer. */
const BESIDE: readonly (readonly [number, number])[] = [0, -0.4].flatMap((up) => [0, 0.35, 0.7, 1.05, 1.57, 2.1, 2.6, 3.1].flatMap((side) => [[side, up], [-side, up]] as const));
const NEARER = [1, 0.6, 0.35] as const;
const LEAST_M = 0.8;

/** Where one begins to look from: all of what is there (`built`) fits in a pane of a given shape, as far as one is not inside of it. */
export function homeViewpoint(view: ViewName, built: THREE.Box3 | null = null, aspect = 1): Viewpoint {
  const usual = usualViewpoint(view);
  if (!built) return usual;
  const middle = built.getCenter(new THREE.Vector3());
  const camera = cameraFor(usual, aspect);
  const inPane = CORNERS.every(([x, y, z]) => {
    const at = new THREE.Vector3(x ? built.max.x : built.min.x, y ? built.max.y : built.min.y, z ? built.max.z : built.min.z).project(camera);
    return Math.max(Math.abs(at.x), Math.abs(at.y)) < 1 && at.z < 1;
  });
  if (inPane || (view === "free" && built.containsPoint(usual.eye))) return usual;
  if (view === "free") {
    const radius = built.getSize(new THREE.Vector3()).length() / 2;
    return frame({ ...usual, eye: middle.clone().add(new THREE.Vector3(0.36, -1, 0.34)), target: middle }, middle, radius / Math.min(Math.max(aspect, 0.5), 1.3));
  }
  const { look, up } = DRAWN[view];
  const right = new THREE.Vector3(...look).cross(new THREE.Vector3(...up));
  const size = built.getSize(new THREE.Vector3());
  const across = Math.abs(size.dot(right)), high = Math.abs(size.dot(new THREE.Vector3(...up)));
  const eye = middle.clone().addScaledVector(new THREE.Vector3(...look), -100);
  // A section stays on the centre line until something is framed.
  if (view === "section") middle.x = 0;
  return { view, eye, target: middle, height: Math.max(usual.height, 1.15 * Math.max(high, across / aspect)) };
}

function usualViewpoint(view: ViewName): Viewpoint {
  if (view === "free") return { view, eye: new THREE.Vector3(5.5, -13, 4.2), target: new THREE.Vector3(0, 2.5, 3), height: 12 };
  const middle = new THREE.Vector3(0, view === "plan" ? -1 : 1, view === "plan" ? 0 : 4);
  const eye = middle.clone().addScaledVector(new THREE.Vector3(...DRAWN[view].look), -100);
  return { view, eye, target: middle, height: view === "plan" ? 23 : 15 };
}

/** The camera of a viewpoint, for a pane of a given shape (width over height). */
export function cameraFor(from: Viewpoint, aspect: number): THREE.PerspectiveCamera | THREE.OrthographicCamera {
  if (from.view === "free") {
    const camera = new THREE.PerspectiveCamera(46, aspect, 0.08, FAR_M);
    camera.up.set(0, 0, 1);
    camera.position.copy(from.eye);
    camera.lookAt(from.target);
    camera.updateMatrixWorld();
    return camera;
  }
  const half = from.height / 2;
  const near = from.view === "section" ? 100 : 0.1;
  const camera = new THREE.OrthographicCamera(-half * aspect, half * aspect, half, -half, near, FAR_M);
  const { look, up } = DRAWN[from.view];
  camera.up.set(...up);
  camera.position.copy(from.target).addScaledVector(new THREE.Vector3(...look), -100);
  camera.lookAt(from.target);
  camera.updateMatrixWorld();
  return camera;
}

/** Turn about a point: the eye and the target go round it together, and the horizon stays level. */
export function orbit(from: Viewpoint, about: THREE.Vector3, byRight: number, byUp: number): Viewpoint {
  const sight = from.target.clone().sub(from.eye);
  const right = new THREE.Vector3().crossVectors(sight, new THREE.Vector3(0, 0, 1)).normalize();
  const steep = Math.asin(THREE.MathUtils.clamp(sight.z / sight.length(), -1, 1));
  const lift = THREE.MathUtils.clamp(steep + byUp, -1.5, 1.5) - steep;
  const turn = new THREE.Quaternion()
    .setFromAxisAngle(new THREE.Vector3(0, 0, 1), byRight)
    .multiply(new THREE.Quaternion().setFromAxisAngle(right, lift));
  const around = (p: THREE.Vector3) => p.clone().sub(about).applyQuaternion(turn).add(about);
  return { ...from, eye: around(from.eye), target: around(from.target) };
}

export function pan(from: Viewpoint, by: THREE.Vector3): Viewpoint {
  return { ...from, eye: from.eye.clone().add(by), target: from.target.clone().add(by) };
}

/** Towards a point under the pointer: it stays under the pointer. */
export function zoom(from: Viewpoint, to: THREE.Vector3, factor: number): Viewpoint {
  const scaled = (p: THREE.Vector3) => p.clone().sub(to).multiplyScalar(factor).add(to);
  if (from.view === "free") {
    // Close before a face it goes on by steps, through a wall and to what is behind it.
    const close = factor < 1 && from.eye.distanceTo(to) < CLOSE_M;
    const shift = close ? to.clone().sub(from.eye).normalize().multiplyScalar(-Math.log(factor) * THROUGH_M) : scaled(from.eye).sub(from.eye);
    const eye = from.eye.clone().add(shift);
    return { ...from, eye, target: from.target.clone().add(shift) };
  }
  const height = THREE.MathUtils.clamp(from.height * factor, 0.5, 250);
  const real = height / from.height;
  const target = from.target.clone().sub(to).multiplyScalar(real).add(to);
  return { ...from, target, height };
}

/**
 * So far away that a ball of this radius fills most of the pane. Where nothing is to be seen from there (`clear`), from
 * beside or above as near to that as may be, and nearer where it is shut in.
 */
export function frame(from: Viewpoint, middle: THREE.Vector3, radius: number, clear: (from: Viewpoint) => boolean = () => true): Viewpoint {
  if (from.view !== "free") return { ...from, target: middle.clone(), height: Math.max(radius * 2.4, 1) };
  const sight = from.target.clone().sub(from.eye).normalize();
  const away = Math.max(radius, 0.4) / Math.tan(THREE.MathUtils.degToRad(20));
  const straight: Viewpoint = { ...from, target: middle.clone(), eye: middle.clone().addScaledVector(sight, -away) };
  for (const share of NEARER) {
    const near = { ...straight, eye: middle.clone().addScaledVector(sight, -Math.max(away * share, LEAST_M)) };
    for (const [right, up] of BESIDE) {
      const tried = orbit(near, middle, right, up);
      if (clear(tried)) return tried;
    }
  }
  return straight;
}
