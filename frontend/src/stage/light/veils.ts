import * as THREE from "three";
import type { Solids } from "../scene/solids";
import FACES from "./faces.frag.glsl?raw";
import { NO_DEPTH, type Targets } from "./targets";
import type { Passes, Steps } from "./steps";
import SOLID_VERTEX from "./solid.vert.glsl?raw";
import SURFACE from "./surface.glsl?raw";
import THROUGH from "./through.frag.glsl?raw";

const HEAD = "precision highp float; precision highp int;\n";
const TIMES = { blending: THREE.CustomBlending, blendSrc: THREE.DstColorFactor, blendDst: THREE.ZeroFactor, blendEquation: THREE.AddEquation } as const;
/** Half the size of the shadow atlas each way. */
const ATLAS_PX = 1536;
const FAR_M = 6e4;
/** All of it goes on, and nothing begins before the end of the world. */
const CLEAR = [1, 1, 1, FAR_M];

/** What is sheer in a pane: its surfaces, how much light of what is behind comes through, and the light on it. */
export interface Veil {
  surface: THREE.WebGLRenderTarget;
  through: THREE.WebGLRenderTarget;
  light: THREE.WebGLRenderTarget;
}

/**
 * Gauze: surfaces of their own before the others, lit in the same way, through which what is behind is seen; and what light
 * on its way meets (the atlas: tile by tile like shadows, how much goes on and where along the beam the first of them is).
 */
export class Veils {
  private readonly faces: THREE.RawShaderMaterial;
  private readonly seen: THREE.RawShaderMaterial;
  private readonly casting: THREE.RawShaderMaterial;
  private readonly made = new WeakMap<Targets, Veil>();
  /** None until there is something sheer: programs look into it only then. */
  private atlas: THREE.WebGLRenderTarget | null = null;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly passes: Passes,
    private readonly solids: Solids,
  ) {
    const { uniforms } = passes;
    const make = (vertex: string, fragment: string, of: Record<string, THREE.IUniform>, extra: THREE.ShaderMaterialParameters) =>
      new THREE.RawShaderMaterial({ glslVersion: THREE.GLSL3, vertexShader: HEAD + vertex, fragmentShader: HEAD + fragment, uniforms: of, ...extra });
    this.faces = make(SOLID_VERTEX, `#define VEIL\n${SURFACE}\n${FACES}`, uniforms, {});
    this.seen = make(SOLID_VERTEX, `${THROUGH}`, uniforms, { ...TIMES, depthTest: false, depthWrite: false, side: THREE.DoubleSide });
    const light = { blendEquationAlpha: THREE.MinEquation, blendSrcAlpha: THREE.OneFactor, blendDstAlpha: THREE.OneFactor };
    this.casting = make(`#define CASTING\n${SOLID_VERTEX}`, `#define CASTING\n${THROUGH}`, solids.casterUniforms, { ...TIMES, ...light, depthTest: false, depthWrite: false, side: THREE.DoubleSide });
  }

  /** Whether there is anything sheer. */
  get any(): boolean {
    return this.solids.sheer.length > 0;
  }

  of(targets: Targets): Veil {
    this.ready();
    let veil = this.made.get(targets);
    if (!veil) {
      const { width, height } = targets;
      veil = {
        surface: targets.like.surface(),
        through: new THREE.WebGLRenderTarget(width, height, NO_DEPTH),
        light: targets.like.light(),
      };
      targets.more.push(...Object.values(veil));
      this.made.set(targets, veil);
    }
    return veil;
  }

  /** Draw what is sheer and not behind what was drawn already. */
  *surfaces(targets: Targets, veil: Veil): Steps {
    const meshes = this.solids.sheer.flatMap(({ levels }) => levels.slice(0, 1));
    this.passes.set("uBehind", targets.surface.textures[2]);
    yield* this.passes.meshes("gauze", meshes, this.faces, veil.surface, [[0, 0, 0, 0], [0, 0, 0, 0], [0, 0, 0, 0]]);
    yield* this.passes.meshes("gauze", meshes, this.seen, veil.through, [[1, 1, 1, 1]]);
    this.passes.set("uThrough", veil.through.texture);
    this.passes.set("uVeilDistance", veil.surface.textures[2]);
    this.passes.set("uVeilLight", veil.light.texture);
  }

  private ready(): THREE.WebGLRenderTarget {
    if (!this.atlas) {
      this.atlas = new THREE.WebGLRenderTarget(ATLAS_PX, ATLAS_PX, { ...NO_DEPTH, type: THREE.HalfFloatType });
      this.renderer.setRenderTarget(this.atlas);
      this.passes.draw([], this.casting, [CLEAR]);
      this.passes.set("uVeils", this.atlas.texture);
    }
    return this.atlas;
  }

  /** The tile of a light, of the same place and matrix as its shadows' (shadows.ts); places in shares of the atlas. */
  tile(x: number, y: number, share: number, from: THREE.Vector3): void {
    if (!this.any) {
      // What is in it would be of gauze that is gone.
      this.atlas?.dispose();
      this.atlas = null;
      return;
    }
    const atlas = this.ready();
    (this.solids.casterUniforms.uLightAt?.value as THREE.Vector3).copy(from);
    const px = Math.round(share * ATLAS_PX);
    atlas.viewport.set(Math.round(x * ATLAS_PX), Math.round(y * ATLAS_PX), px, px);
    atlas.scissor.copy(atlas.viewport);
    atlas.scissorTest = true;
    this.renderer.setRenderTarget(atlas);
    this.passes.draw(this.solids.sheer.flatMap(({ levels }) => levels.slice(0, 1)), this.casting, [CLEAR]);
  }

  dispose(): void {
    this.atlas?.dispose();
    for (const one of [this.faces, this.seen, this.casting]) one.dispose();
  }
}
