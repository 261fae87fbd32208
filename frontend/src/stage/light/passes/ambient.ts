import AMBIENT from "../ambient.frag.glsl?raw";
import { screenMaterial } from "../material";
import type { Passes, Steps } from "../steps";
import type { Frame, LightPass } from "./pass";

/** Work light and house light: where the light of surfaces begins. */
export class Ambient implements LightPass {
  readonly onto = "surfaces";
  private readonly material;

  constructor(private readonly passes: Passes) {
    this.material = screenMaterial("work light", AMBIENT, passes.uniforms);
  }

  on(): boolean {
    return true;
  }

  *steps({ targets }: Frame): Steps {
    yield* this.passes.pass(this.material, targets.light, true);
  }

  dispose(): void {
    this.material.dispose();
  }
}
