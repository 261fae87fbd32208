import * as THREE from "three";
import BEAM from "./beam.glsl?raw";
import GATE from "./gate.glsl?raw";
import PIXEL from "./pixel.glsl?raw";
import SHADOW from "./shadow.glsl?raw";
import STATE from "./state.glsl?raw";

export const TILE_PX = 16;
/** Of the atlases of shadows and of gauze (shadows.ts, veils.ts): tiles each way. */
export const ATLAS_TILES = 12;
/** How many beams a texel of a tile's mask has bits for. */
export const WORD = 128;
export const PACKED_ROW = 64;
export const PACKED_TEXELS = 13;
const SCREEN = "in vec3 position; void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }";
const HEAD = "precision highp float; precision highp int; precision highp sampler2D; precision highp sampler2DArray; precision highp sampler2DShadow;\n";
const ADD = { blending: THREE.CustomBlending, blendSrc: THREE.OneFactor, blendDst: THREE.OneFactor, blendEquation: THREE.AddEquation } as const;

type Shared = Record<string, THREE.IUniform>;
/** What a program's beams can have in them (gate.glsl), whether it looks into the shadow atlas, and whether there is gauze. */
export type Part = "GATE" | "SPREAD" | "SHADOWS" | "VEILS";
export type Kind = "plain" | "spread" | "gate";
const KINDS: Record<Kind, readonly Part[]> = { plain: [], spread: ["SPREAD"], gate: ["GATE"] };
export const ANY_BEAM: readonly Part[] = ["GATE", "SPREAD"];

const defined = (names: readonly string[]): string => names.map((name) => `#define ${name}\n`).join("");

/** A material that draws beams, added to what is there. */
export function beamMaterial(name: string, vertex: string, fragment: string, uniforms: Shared, parts: readonly Part[], extra: THREE.ShaderMaterialParameters = {}): THREE.RawShaderMaterial {
  const head = `${HEAD}${defined(["PACKED", ...parts])}#define TILE ${TILE_PX}\n#define CONE ${CORNERS.cone}\n#define SQUARE ${CORNERS.square}\n#define ATLAS ${ATLAS_TILES}\n${BEAM}\n`;
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
const LEAST = 256;

/** Corners of a closed truncated cone: steps round, 0 or 1 along, 0 or 1 from the axis; the vertex shader gives it its size. */
function coneCorners(): number[] {
  const corners: number[] = [];
  const at = (step: number, end: number, rim: number) => [step, end, rim];
  for (let i = 0; i < SIDES; i++) {
    const a = at(i, 0, 1), b = at(i + 1, 0, 1), c = at(i + 1, 1, 1), d = at(i, 1, 1);
    corners.push(...a, ...b, ...c, ...a, ...c, ...d);
    corners.push(...at(0, 0, 0), ...b, ...a, ...at(0, 1, 0), ...d, ...c);
  }
  return corners;
}

const SQUARE = [-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, -1, 0, 1, 1, 0, -1, 1, 0];
export const CORNERS = { cone: SIDES * 12, square: SQUARE.length / 3 } as const;

/**
 * One shape many times over in one buffer; shaders tell the copies apart by gl_VertexID / CORNERS. Software rendering draws
 * instances one by one, at 0.05 to 0.13 ms each however small they are: thousands of squares for tiles took longer than the
 * light in them.
 */
export class Copies {
  readonly geometry = new THREE.BufferGeometry();
  private made = 0;
  private readonly corners: number[];

  constructor(shape: keyof typeof CORNERS) {
    this.corners = shape === "cone" ? coneCorners() : SQUARE;
    this.show(0);
  }

  show(count: number): void {
    const each = this.corners.length;
    if (count > this.made || !this.made) {
      this.made = Math.max(LEAST, 2 ** Math.ceil(Math.log2(Math.max(count, 1))));
      const data = new Int8Array(this.made * each);
      for (let i = 0; i < this.made; i++) data.set(this.corners, i * each);
      this.geometry.dispose();
      this.geometry.setAttribute("position", new THREE.BufferAttribute(data, 3));
    }
    this.geometry.setDrawRange(0, (count * each) / 3);
  }

  dispose(): void {
    this.geometry.dispose();
  }
}

export function screenGeometry(): THREE.BufferGeometry {
  const triangle = new THREE.BufferGeometry();
  triangle.setAttribute("position", new THREE.BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3));
  return triangle;
}

/** A mesh for each kind of beam and each choice of parts, made when it is first asked for. */
export class Variants {
  private readonly made = new Map<string, THREE.Mesh>();

  constructor(private readonly make: (name: string, parts: readonly Part[]) => THREE.Mesh, private readonly name: string) {}

  of(kind: Kind, more: readonly Part[]): THREE.Mesh {
    const parts = [...KINDS[kind], ...more];
    const key = parts.join();
    const mesh = this.made.get(key) ?? this.make(kind === "plain" ? this.name : `${this.name}, ${kind}`, parts);
    this.made.set(key, mesh);
    mesh.frustumCulled = false;
    return mesh;
  }

  dispose(): void {
    for (const mesh of this.made.values()) (mesh.material as THREE.Material).dispose();
  }
}
