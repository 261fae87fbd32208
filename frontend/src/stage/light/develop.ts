import type * as THREE from "three";
import AVERAGE from "./average.frag.glsl?raw";
import BLOOM from "./bloom.frag.glsl?raw";
import LARGER from "./larger.frag.glsl?raw";
import { screenMaterial } from "./material";
import { all, type Passes, type Steps } from "./steps";
import type { PaneShot } from "./pipeline";
import SMOOTH from "./smooth.frag.glsl?raw";
import type { Targets } from "./targets";
import TONE from "./tone.frag.glsl?raw";

/** From light to what is shown: bloom, tone curve, smoothed edges, onto the canvas or the shot's target. */
export class Developer {
  private readonly materials: Record<"bloomDown" | "bloomUp" | "tone" | "smooth" | "larger" | "average", THREE.RawShaderMaterial>;

  constructor(private readonly passes: Passes) {
    const shared = passes.uniforms;
    this.materials = {
      bloomDown: screenMaterial("bloom", BLOOM, shared),
      bloomUp: screenMaterial("bloom", BLOOM, shared, { add: true }),
      tone: screenMaterial("tone", TONE, shared),
      smooth: screenMaterial("smooth", SMOOTH, shared),
      larger: screenMaterial("larger", LARGER, shared),
      average: screenMaterial("average", AVERAGE, shared),
    };
  }

  *develop(shot: PaneShot, targets: Targets, light: THREE.WebGLRenderTarget): Steps {
    const { passes, materials } = this;
    const levels = shot.quality.bloom && shot.exposure.bloom > 0 ? targets.bloom : [];
    let source = light;
    for (const level of levels) {
      yield* this.bloom(materials.bloomDown, source, level, 0);
      source = level;
    }
    for (let i = levels.length - 1; i > 0; i--) {
      yield* this.bloom(materials.bloomUp, levels[i] as THREE.WebGLRenderTarget, levels[i - 1] as THREE.WebGLRenderTarget, 1);
    }
    passes.set("uBloom", levels.length ? shot.exposure.bloom : 0);
    passes.set("uGathered", light.texture);
    passes.set("uBloomed", (levels[0] ?? light).texture);
    const larger = targets.width !== shot.width;
    if (!shot.quality.smooth && !larger) return passes.onto(shot, materials.tone);
    yield* passes.pass(materials.tone, targets.shown, false);
    passes.set("uShown", targets.shown.texture);
    passes.onto(shot, larger ? materials.larger : materials.smooth);
  }

  private *bloom(material: THREE.RawShaderMaterial, from: THREE.WebGLRenderTarget, to: THREE.WebGLRenderTarget, up: number): Steps {
    this.passes.set("uSource", from.texture);
    this.passes.set("uUp", up);
    this.passes.size("uSourceTexel", 1 / from.width, 1 / from.height);
    yield* this.passes.pass(material, to, false);
  }

  /** Mix a new sample of a still into the mean so far: `to` becomes their weighted mean. */
  average(sample: THREE.WebGLRenderTarget, before: THREE.WebGLRenderTarget, to: THREE.WebGLRenderTarget, share: number): void {
    this.passes.set("uSource", sample.texture);
    this.passes.set("uBefore", before.texture);
    this.passes.set("uShare", share);
    all(this.passes.pass(this.materials.average, to, false));
  }

  dispose(): void {
    for (const one of Object.values(this.materials)) one.dispose();
  }
}
