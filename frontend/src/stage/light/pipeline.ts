import type * as THREE from "three";
import type { Exposure, Shade, Walls } from "../data";
import type { Mean } from "./mean";
import type { Quality } from "./quality";

/** What a light pipeline draws one pane with. */
export interface PaneShot {
  camera: THREE.PerspectiveCamera | THREE.OrthographicCamera;
  /** Lower left corner and size in device pixels of the canvas, or of `target`. */
  x: number;
  y: number;
  width: number;
  height: number;
  /** The share of the resolution, each way, that lit panes are drawn at; all of it where it is left out. */
  share?: number;
  picture: string;
  shade: Shade;
  /** What is left out because it stands in the way, and whether the picture is cut where the camera begins to see. */
  walls: Walls;
  section: boolean;
  quality: Quality;
  /** Pictures of the same view that this one is to be mixed with (mean.ts), and shown as their mean. */
  mean?: Mean;
  /** Nothing moves: what is otherwise spread over frames is done at once. */
  atRest: boolean;
  exposure: Exposure;
  /** The eye's own correction, 1 where it is locked. */
  adapt: number;
  /** The server's clock, seconds, modulo 4096. */
  clock: number;
  now: number;
  target: THREE.WebGLRenderTarget | null;
}

/** The light of the stage. What draws pools, shafts and surfaces can be replaced behind this. */
export interface LightPipeline {
  readonly uniforms: Record<string, THREE.IUniform>;
  draw(shot: PaneShot): void;
  dispose(): void;
}
