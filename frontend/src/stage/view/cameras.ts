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
  // Cut along the centre line, looking to stage left: what is on the near side of the cut is not drawn.
  section: { look: [1, 0, 0], up: [0, 0, 1] },
  left: { look: [1, 0, 0], up: [0, 0, 1] },
  right: { look: [-1, 0, 0], up: [0, 0, 1] },
};

const FAR_M = 300;

export function homeViewpoint(view: ViewName): Viewpoint {
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
    // Never through the point: the last decimetre is not taken.
    if (factor < 1 && from.eye.distanceTo(to) < 0.5) return from;
    const eye = scaled(from.eye);
    const shift = eye.clone().sub(from.eye);
    return { ...from, eye, target: from.target.clone().add(shift) };
  }
  const height = THREE.MathUtils.clamp(from.height * factor, 0.5, 250);
  const real = height / from.height;
  const target = from.target.clone().sub(to).multiplyScalar(real).add(to);
  return { ...from, target, height };
}

/** So far away that a ball of this radius fills most of the pane. */
export function frame(from: Viewpoint, middle: THREE.Vector3, radius: number): Viewpoint {
  if (from.view !== "free") return { ...from, target: middle.clone(), height: Math.max(radius * 2.4, 1) };
  const sight = from.target.clone().sub(from.eye).normalize();
  const away = Math.max(radius, 0.4) / Math.tan(THREE.MathUtils.degToRad(20));
  return { ...from, target: middle.clone(), eye: middle.clone().addScaledVector(sight, -away) };
}
