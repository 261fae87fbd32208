import * as THREE from "three";
import BOUNDS from "./bounds.frag.glsl?raw";
import MASK from "./mask.frag.glsl?raw";
import { beamMaterial, Copies, PACKED_ROW, PACKED_TEXELS, type Part, screenMaterial, Variants, WORD } from "./material";
import PACK from "./pack.frag.glsl?raw";
import type { Passes, Steps } from "./steps";
import POSE from "./pose.frag.glsl?raw";
import POOL from "./pool.frag.glsl?raw";
import { NEAREST, type Targets } from "./targets";
import TILE from "./tile.vert.glsl?raw";

const POSE_TEXELS = 9;

/**
 * Light on surfaces by tiles: beams are packed once a frame, each tile of the picture learns which of them reach it, and one
 * pass walks those for each pixel. Each kind of beam has a program of its own.
 */
export class TiledLight {
  private packed = new THREE.WebGLRenderTarget(PACKED_ROW * PACKED_TEXELS, 1, { ...NEAREST, type: THREE.FloatType, depthBuffer: false });
  private poses = new THREE.WebGLRenderTarget(PACKED_ROW * POSE_TEXELS, 1, { ...NEAREST, type: THREE.FloatType, depthBuffer: false });
  private readonly squares = new Copies("square");
  private readonly pools: Variants;
  private readonly pack: THREE.RawShaderMaterial;
  private readonly pose: THREE.RawShaderMaterial;
  private readonly bound: THREE.RawShaderMaterial;
  private readonly mask: THREE.RawShaderMaterial;

  constructor(private readonly passes: Passes) {
    const { uniforms } = passes;
    this.pools = new Variants((name, parts) => new THREE.Mesh(this.squares.geometry, beamMaterial(name, TILE, POOL, uniforms, parts, { depthTest: false })), "pools");
    this.pack = screenMaterial("beams", PACK, uniforms, { state: true });
    this.pose = screenMaterial("beams", POSE, uniforms, { state: true });
    this.bound = screenMaterial("tiles", BOUNDS, uniforms, { pixel: true });
    this.mask = screenMaterial("tiles", MASK, uniforms, { beams: true });
  }

  /** Work out where the fixtures' parts are in this frame. */
  *poseParts(count: number): Steps {
    const rows = Math.max(1, Math.ceil(count / PACKED_ROW));
    if (rows !== this.poses.height) this.poses.setSize(PACKED_ROW * POSE_TEXELS, rows);
    this.passes.set("uCount", count);
    yield* this.passes.pass(this.pose, this.poses, false);
    this.passes.set("uPoses", this.poses.texture);
  }

  /** Work the beams out for this frame, whatever passes take them. */
  *packBeams(count: number): Steps {
    const rows = Math.max(1, Math.ceil(count / PACKED_ROW));
    if (rows !== this.packed.height) this.packed.setSize(PACKED_ROW * PACKED_TEXELS, rows);
    this.passes.set("uCount", count);
    yield* this.passes.pass(this.pack, this.packed, false);
    this.passes.set("uPacked", this.packed.texture);
  }

  /** Add the light of all beams on the surfaces of a pane to its light. */
  *steps(targets: Targets, count: number, parts: readonly Part[]): Steps {
    const { passes } = this;
    const { bounds, bits } = targets;
    const words = Math.max(1, Math.ceil(count / WORD));
    if (bits.width !== bounds.width * words) bits.setSize(bounds.width * words, bounds.height * 2);
    const [near, far, split] = bounds.textures;
    passes.size("uFull", targets.width, targets.height);
    yield* passes.pass(this.bound, bounds, false);
    for (const [name, value] of Object.entries({ uNear: near, uFar: far, uSplit: split, uWords: words })) passes.set(name, value);
    yield* passes.pass(this.mask, bits, false);
    passes.size("uTiles", bounds.width, bounds.height);
    this.squares.show(bounds.width * bounds.height);
    for (const [i, kind] of (["plain", "spread", "gate"] as const).entries()) {
      passes.set("uMask", bits.textures[i]);
      yield* passes.pass(this.pools.of(kind, parts), targets.light, false);
    }
  }

  dispose(): void {
    this.packed.dispose();
    this.poses.dispose();
    this.squares.dispose();
    this.pools.dispose();
    for (const one of [this.pack, this.pose, this.bound, this.mask]) one.dispose();
  }
}
