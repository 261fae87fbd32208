import * as THREE from "three";
import LENS_FRAGMENT from "../lens.frag.glsl?raw";
import LENS_VERTEX from "../lens.vert.glsl?raw";
import { ANY_BEAM, beamMaterial, Copies } from "../material";
import type { Passes, Steps } from "../steps";
import { everywhere, type Frame, type LightPass } from "./pass";

/** The lenses themselves, as bright as they are from where one stands. */
export class Lenses implements LightPass {
  readonly onto = "opaque";
  private readonly squares = new Copies("square");
  private readonly mesh: THREE.Mesh;

  constructor(private readonly passes: Passes) {
    this.mesh = everywhere(this.squares.geometry, beamMaterial("lenses", LENS_VERTEX, LENS_FRAGMENT, passes.uniforms, ANY_BEAM, { side: THREE.DoubleSide }));
  }

  on({ count }: Frame): boolean {
    return count > 0;
  }

  *steps({ targets, count }: Frame): Steps {
    this.squares.show(count);
    this.passes.set("uGlare", 0);
    yield* this.passes.pass(this.mesh, targets.light, false);
  }

  dispose(): void {
    this.squares.dispose();
    (this.mesh.material as THREE.Material).dispose();
  }
}

/** What a bright lens spills over the whole picture. */
export class Glare implements LightPass {
  readonly onto = "picture";
  private readonly squares = new Copies("square");
  private readonly mesh: THREE.Mesh;

  constructor(private readonly passes: Passes) {
    const how = { depthTest: false, side: THREE.DoubleSide } as const;
    this.mesh = everywhere(this.squares.geometry, beamMaterial("glare", LENS_VERTEX, LENS_FRAGMENT, passes.uniforms, ANY_BEAM, how));
  }

  on({ count, shot }: Frame): boolean {
    return count > 0 && shot.quality.bloom;
  }

  *steps({ targets, count }: Frame): Steps {
    this.squares.show(count);
    this.passes.set("uGlare", 1);
    yield* this.passes.pass(this.mesh, targets.gathered, false);
  }

  dispose(): void {
    this.squares.dispose();
    (this.mesh.material as THREE.Material).dispose();
  }
}
