import * as THREE from "three";
import type { BeamState } from "../../scene/beams";
import type { Landings } from "../../scene/landings";
import type { Solids } from "../../scene/solids";
import BOUNCE from "../bounce.frag.glsl?raw";
import type { GoboStore, WebStore } from "../gobos";
import { screenMaterial } from "../material";
import { Patches } from "../patches";
import type { PaneShot } from "../pipeline";
import type { Passes, Steps } from "../steps";
import type { Frame, LightPass } from "./pass";

const BOXES = 6;
/** Pictures whose patches are kept. */
const PICTURES = 4;

/** Light that has landed lights again: patches where beams land (light/patches.ts), taken in by the ambient pass. */
export class Bounce implements LightPass {
  readonly onto = "surfaces";
  private readonly material;
  private readonly patches = new Map<string, Patches>();
  private readonly boxes = new THREE.DataTexture(new Float32Array(BOXES * 12), 3, BOXES, THREE.RGBAFormat, THREE.FloatType);
  private boxCount = 0;
  private boxesOf = -1;

  constructor(
    private readonly passes: Passes,
    private readonly beams: BeamState,
    private readonly landings: Landings,
    private readonly solids: Solids,
    private readonly gobos: GoboStore,
    private readonly webs: WebStore,
  ) {
    this.material = screenMaterial("bounce", BOUNCE, passes.uniforms, { pixel: true });
  }

  /** Bring it up to date for a picture; false where more of that is left for the next frame. */
  prepare(shot: PaneShot, turn: boolean): boolean {
    const { passes } = this;
    const on = shot.quality.bounce;
    const picture = this.beams.pictures.get(shot.picture);
    passes.set("uBounceGain", on ? shot.exposure.poolGain : 0);
    passes.set("uPatchCount", 0);
    passes.set("uFurther", 0);
    passes.set("uOcclusion", on ? 1 : 0);
    if (!on || !picture) return true;
    const patches = this.of(shot.picture);
    const state = `${picture.version}/${this.beams.placed}/${this.solids.version}`;
    const whole = patches.update(shot.picture, state, { gobos: this.gobos.means, webs: this.webs.angles }, shot.atRest, turn);
    passes.set("uPatches", patches.texture);
    this.setBoxes(shot.quality.shadows > 0);
    passes.set("uPatchCount", patches.count);
    passes.set("uFurther", patches.further);
    return whole;
  }

  private of(picture: string): Patches {
    let patches = this.patches.get(picture);
    if (!patches) {
      if (this.patches.size >= PICTURES) this.patches.clear();
      patches = new Patches(this.beams, this.landings, this.solids);
      this.patches.set(picture, patches);
    }
    return patches;
  }

  /** With shadows, large flat things stand in the way of bounced light as well. */
  private setBoxes(on: boolean): void {
    const { passes } = this;
    passes.set("uBoxCount", on ? this.boxCount : 0);
    if (!on || this.boxesOf === this.solids.version) return;
    this.boxesOf = this.solids.version;
    const boxes = this.solids.boxes(BOXES);
    const data = this.boxes.image.data as Float32Array;
    boxes.forEach(({ middle, half, turn }, i) => data.set([...middle.toArray(), 0, ...half.toArray(), 0, ...turn], i * 12));
    this.boxes.needsUpdate = true;
    this.boxCount = boxes.length;
    passes.set("uBoxes", this.boxes);
    passes.set("uBoxCount", boxes.length);
  }

  on(): boolean {
    return (this.passes.uniforms.uBounceGain?.value as number) > 0;
  }

  *steps({ targets }: Frame): Steps {
    this.passes.size("uFull", targets.width, targets.height);
    this.passes.size("uCorner", 0, 0);
    this.passes.set("uBounce", targets.bounce.texture);
    yield* this.passes.pass(this.material, targets.bounce, true);
  }

  dispose(): void {
    for (const patches of this.patches.values()) patches.dispose();
    this.boxes.dispose();
    this.material.dispose();
  }
}
