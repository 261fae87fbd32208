import * as THREE from "three";
import type { Part } from "../material";
import type { PaneShot } from "../pipeline";
import type { Steps } from "../steps";
import type { Targets } from "../targets";

/** What light is put on: each thing that has a surface; what is opaque only; the air before it; the whole picture. */
export type Onto = "surfaces" | "opaque" | "air" | "picture";

/** A pane's picture as it is drawn: what passes are told of it. Uniforms that all share are set. */
export interface Frame {
  shot: PaneShot;
  targets: Targets;
  /** How many beams there are; 0: no picture has come. */
  count: number;
  /** What beams need in their programs: shadows, gauze. */
  parts: readonly Part[];
  /** Without shadows the air is still seen through gauze. */
  airParts: readonly Part[];
}

/**
 * A kind of light. What is in `DeferredLight.passes` is drawn in that order, each where it belongs: a new kind joins by being
 * added there.
 */
export interface LightPass {
  readonly onto: Onto;
  /** Whether there is something to be drawn now. */
  on(frame: Frame): boolean;
  steps(frame: Frame): Steps;
  dispose(): void;
}

/** A mesh that is everywhere: what of it is in the picture is for its program to say. */
export function everywhere(geometry: THREE.BufferGeometry, material: THREE.RawShaderMaterial): THREE.Mesh {
  const mesh = new THREE.Mesh(geometry, material);
  mesh.frustumCulled = false;
  return mesh;
}
