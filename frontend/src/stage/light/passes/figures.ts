import type * as THREE from "three";
import type { BeamState } from "../../scene/beams";
import FRAGMENT from "../figure.frag.glsl?raw";
import VERTEX from "../figure.vert.glsl?raw";
import { beamMaterial, Copies, type Part, Variants } from "../material";
import type { Passes, Steps } from "../steps";
import { everywhere, type Frame, type LightPass } from "./pass";

/** What lasers draw: sheets, fans and cones in the haze, and the figure on what it meets. */
export class Figures implements LightPass {
  readonly onto = "picture";
  private readonly squares = new Copies("square");
  private readonly variants: Variants;

  constructor(private readonly passes: Passes, private readonly beams: BeamState) {
    const how = { depthTest: false, side: 2 as THREE.Side } as const;
    this.variants = new Variants((name, parts) => everywhere(this.squares.geometry, beamMaterial(name, VERTEX, FRAGMENT, passes.uniforms, parts, how)), "figures");
  }

  /** Figures are those of now: a look's picture by itself has none. */
  on({ count, shot }: Frame): boolean {
    return count > 0 && shot.picture === "live" && this.beams.lasers.count > 0;
  }

  *steps({ shot, targets, parts }: Frame): Steps {
    this.squares.show(this.beams.lasers.count);
    this.passes.set("uFigures", this.beams.lasers.texture);
    this.passes.set("uFigureAir", shot.quality.shafts && shot.exposure.hazePerM > 0 ? 1 : 0);
    const shadows = parts.filter((part): part is Part => part === "SHADOWS");
    yield* this.passes.pass(this.variants.of("plain", shadows), targets.gathered, false);
  }

  dispose(): void {
    this.squares.dispose();
    this.variants.dispose();
  }
}
