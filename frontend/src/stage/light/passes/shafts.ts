import * as THREE from "three";
import CONE from "../cone.vert.glsl?raw";
import { beamMaterial, Copies, type Kind, Variants } from "../material";
import SHAFT from "../shaft.frag.glsl?raw";
import type { Passes, Steps } from "../steps";
import { everywhere, type Frame, type LightPass } from "./pass";

/** Which beams a draw takes, as the shader counts them: with a gate, without, those that spread through one. */
const WITH_GATE = 0;
const PLAIN = 1;
const SPREAD = 3;

/** Beams in the haze. Without patterns all are drawn as if their gates were empty, by as much less as those let through. */
export class Shafts implements LightPass {
  readonly onto = "air";
  private readonly cones = new Copies("cone");
  private readonly variants: Variants;

  constructor(private readonly passes: Passes) {
    const how = { depthTest: false, side: THREE.BackSide } as const;
    this.variants = new Variants((name, parts) => everywhere(this.cones.geometry, beamMaterial(name, CONE, SHAFT, passes.uniforms, parts, how)), "shafts");
  }

  on({ count, shot }: Frame): boolean {
    return count > 0 && shot.quality.shafts && shot.exposure.hazePerM > 0;
  }

  *steps({ shot: { quality }, targets, count, airParts }: Frame): Steps {
    this.cones.show(count);
    this.passes.set("uSteps", quality.samples);
    const of = (kind: Kind) => this.variants.of(kind, airParts);
    yield* this.draw(PLAIN, of("plain"), targets.haze, true);
    yield* this.draw(SPREAD, of("spread"), targets.haze, false);
    if (quality.pattern) yield* this.draw(WITH_GATE, of("gate"), targets.shafts, true);
    else yield* this.draw(WITH_GATE, of("spread"), targets.haze, false);
  }

  private *draw(only: number, shafts: THREE.Mesh, target: THREE.WebGLRenderTarget, clear: boolean): Steps {
    this.passes.set("uOnly", only);
    yield* this.passes.pass(shafts, target, clear);
  }

  dispose(): void {
    this.cones.dispose();
    this.variants.dispose();
  }
}
