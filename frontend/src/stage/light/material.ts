import * as THREE from "three";
import BEAM from "./beam.glsl?raw";
import GATE from "./gate.glsl?raw";
import PIXEL from "./pixel.glsl?raw";
import SHADOW from "./shadow.glsl?raw";
import STATE from "./state.glsl?raw";

export const TILE_PX = 16;
/** How many beams a texel of a tile's mask has bits for. */
export const WORD = 128;
export const PACKED_ROW = 64;
export const PACKED_TEXELS = 13;
const SCREEN = "in vec3 position; void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }";
const HEAD = "precision highp float; precision highp int; precision highp sampler2D; precision highp sampler2DArray; precision highp sampler2DShadow;\n";
const ADD = { blending: THREE.CustomBlending, blendSrc: THREE.OneFactor, blendDst: THREE.OneFactor, blendEquation: THREE.AddEquation } as const;

type Shared = Record<string, THREE.IUniform>;
/** What a program's beams can have in them (gate.glsl), and whether it looks into the shadow atlas. */
export type Part = "GATE" | "SPREAD" | "SHADOWS";
export const ANY_BEAM: readonly Part[] = ["GATE", "SPREAD"];

const defined = (names: readonly string[]): string => names.map((name) => `#define ${name}\n`).join("");

/** A material that draws beams, added to what is there. */
export function beamMaterial(name: string, vertex: string, fragment: string, uniforms: Shared, parts: readonly Part[], extra: THREE.ShaderMaterialParameters = {}): THREE.RawShaderMaterial {
  const head = `${HEAD}${defined(["PACKED", ...parts])}#define TILE ${TILE_PX}\n${BEAM}\n`;
  return new THREE.RawShaderMaterial({
    name, glslVersion: THREE.GLSL3,
    vertexShader: `${head}${GATE}\n${vertex}`,
    fragmentShader: `${head}${GATE}\n${PIXEL}\n${parts.includes("SHADOWS") ? SHADOW : ""}\n${fragment}`,
    uniforms, depthWrite: false, ...ADD, ...extra,
  });
}

/** A material for a pass over the whole target; `state`: it reads beams as they come, `beams`: as they are packed. */
export function screenMaterial(name: string, fragment: string, uniforms: Shared, options: { pixel?: boolean; add?: boolean; state?: boolean; beams?: boolean } = {}): THREE.RawShaderMaterial {
  const beams = options.state ? `${BEAM}\n${STATE}` : options.beams ? `#define PACKED\n${BEAM}` : "";
  return new THREE.RawShaderMaterial({
    name, glslVersion: THREE.GLSL3,
    vertexShader: HEAD + SCREEN,
    fragmentShader: `${HEAD}#define TILE ${TILE_PX}\n${beams}\n${options.pixel ? PIXEL : ""}\n${fragment}`,
    uniforms, depthWrite: false, depthTest: false, ...(options.add ? ADD : { blending: THREE.NoBlending }),
  });
}

const SIDES = 16;

/** A closed truncated cone as steps round and along; the vertex shader gives it its size. */
export function coneGeometry(): THREE.InstancedBufferGeometry {
  const corners: number[] = [];
  const at = (step: number, end: number, rim: number) => [step, end, rim];
  for (let i = 0; i < SIDES; i++) {
    const a = at(i, 0, 1), b = at(i + 1, 0, 1), c = at(i + 1, 1, 1), d = at(i, 1, 1);
    corners.push(...a, ...b, ...c, ...a, ...c, ...d);
    corners.push(...at(0, 0, 0), ...b, ...a, ...at(0, 1, 0), ...d, ...c);
  }
  const geometry = new THREE.InstancedBufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(new Float32Array(corners), 3));
  return geometry;
}

export function squareGeometry(): THREE.InstancedBufferGeometry {
  const geometry = new THREE.InstancedBufferGeometry();
  const corners = [-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, -1, 0, 1, 1, 0, -1, 1, 0];
  geometry.setAttribute("position", new THREE.BufferAttribute(new Float32Array(corners), 3));
  return geometry;
}

export function screenGeometry(): THREE.BufferGeometry {
  const triangle = new THREE.BufferGeometry();
  triangle.setAttribute("position", new THREE.BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3));
  return triangle;
}
