import * as THREE from "three";
import type { BeamState } from "../scene/beams";
import { reaches } from "../scene/instances";
import type { Solids } from "../scene/solids";
import { ATLAS_TILES } from "./material";

export const TILES = ATLAS_TILES * ATLAS_TILES;
const TILE_PX = 256;
const RANGE_M = 60;
const WIDEST = Math.tan(THREE.MathUtils.degToRad(74));
/** A beam keeps its tile until another is so much brighter. */
const KEEP = 1.35;

interface Tile {
  picture: string;
  row: number;
  apex: THREE.Vector3;
  along: THREE.Vector3;
  side: THREE.Vector3;
  reach: number;
  /** Drawn at all; its casters moved since. */
  drawn: boolean;
  urgent: boolean;
}

/** One atlas of depth for the beams that matter: chosen by how much light they carry, or pinned. */
export class ShadowAtlas {
  readonly target: THREE.WebGLRenderTarget;
  readonly matrices: THREE.DataTexture;
  /** Fixtures whose shadows are always drawn. */
  pinned: ReadonlySet<string> = new Set();
  /** How many tiles were drawn anew in the last frame. */
  redrawn = 0;
  private readonly tiles: (Tile | null)[] = new Array<Tile | null>(TILES).fill(null);
  private readonly camera = new THREE.Camera();
  private settledFor = "";
  /** Told of each tile that is drawn: where it lies and how wide it is, in shares of the atlas, and from where its light comes. */
  also: ((x: number, y: number, share: number, from: THREE.Vector3) => void) | null = null;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly beams: BeamState,
    private readonly solids: Solids,
  ) {
    const px = ATLAS_TILES * TILE_PX;
    const depth = new THREE.DepthTexture(px, px, THREE.FloatType);
    depth.compareFunction = THREE.LessEqualCompare;
    depth.minFilter = depth.magFilter = THREE.LinearFilter;
    this.target = new THREE.WebGLRenderTarget(px, px, { depthTexture: depth });
    // Shaders that may look into the atlas need it there, also before a tile was drawn.
    renderer.setRenderTarget(this.target);
    renderer.clear(true, true, false);
    renderer.setRenderTarget(null);
    this.matrices = new THREE.DataTexture(new Float32Array(TILES * 16), 4, TILES, THREE.RGBAFormat, THREE.FloatType);
    this.matrices.minFilter = this.matrices.magFilter = THREE.NearestFilter;
    this.matrices.needsUpdate = true;
  }

  /** How much a beam's shadow matters: roughly its flux, twice that where the camera can see along it. */
  private weight(row: number, picture: string): number {
    const candela = this.beams.luminance(row, picture);
    if (candela < 0.5) return 0;
    const { half } = this.beams.cone(row, picture);
    const pinned = this.pinned.has(this.beams.idOf(row) ?? "");
    return candela * (1 - Math.cos(half)) * (pinned ? 1e6 : 1);
  }

  private assign(picture: string, version: number, from: number, to: number): void {
    const key = `${picture}/${version}/${from}/${to}/${this.pinned.size}`;
    if (key === this.settledFor) return;
    this.settledFor = key;
    const held = new Set<number>();
    for (let i = from; i < to; i++) if (this.tiles[i]?.picture === picture) held.add(this.tiles[i]?.row ?? -1);
    const ranked: { row: number; weight: number }[] = [];
    for (let row = 0; row < this.beams.count; row++) {
      const weight = this.weight(row, picture) * (held.has(row) ? KEEP : 1);
      if (weight > 0) ranked.push({ row, weight });
    }
    ranked.sort((a, b) => b.weight - a.weight);
    const chosen = new Set(ranked.slice(0, to - from).map((one) => one.row));
    const live = this.beams.pictures.get(picture);
    for (let i = from; i < to; i++) {
      const tile = this.tiles[i];
      if (tile && tile.picture === picture && chosen.has(tile.row)) chosen.delete(tile.row);
      else {
        if (tile) this.beams.pictures.get(tile.picture)?.setTile(tile.row, 0);
        this.tiles[i] = null;
      }
    }
    for (let i = from; i < to; i++) {
      if (this.tiles[i]) continue;
      const row = chosen.values().next().value;
      if (row === undefined) break;
      chosen.delete(row);
      live?.setTile(row, 0);
      this.tiles[i] = { picture, row, apex: new THREE.Vector3(), along: new THREE.Vector3(), side: new THREE.Vector3(), reach: 0, drawn: false, urgent: false };
    }
  }

  /** All tiles are drawn anew when they are next asked for. */
  forget(): void {
    for (const tile of this.tiles) if (tile) tile.drawn = false;
  }

  /** What moved: the tiles whose light passes there are drawn anew in the next frame, all of them. */
  castersMoved(balls: THREE.Sphere[]): void {
    for (const tile of this.tiles) {
      if (!tile?.drawn || tile.urgent) continue;
      tile.urgent = balls.some(({ center, radius }) => reaches(tile, center.x, center.y, center.z, radius));
    }
  }

  /**
   * Give a picture's brightest beams tiles from `from` to `to`, and draw those that are new, moved or had casters move:
   * all of the last, `budget` of the others. `spread` shifts the light over its lens (x, y in lens radii), for soft edges.
   * Once a first one is drawn, the others are left for later when it takes longer than `mostMs`. Returns whether all are up
   * to date.
   */
  update(picture: string, from: number, to: number, budget: number, spread: [number, number] = [0, 0], mostMs = Infinity): boolean {
    const live = this.beams.pictures.get(picture);
    if (!live) return true;
    const moved = this.solids.takeMoved();
    if (moved.length) this.castersMoved(moved);
    this.assign(picture, live.version + this.beams.placed * 1e6, from, to);
    let left = budget;
    let done = true;
    const until = performance.now() + mostMs;
    this.redrawn = 0;
    const soft = spread[0] !== 0 || spread[1] !== 0;
    for (let i = from; i < to; i++) {
      const tile = this.tiles[i];
      if (!tile) continue;
      const pose = this.beams.poseRow(tile.row, picture);
      if (!pose) continue;
      const { outer, apex } = this.beams.cone(tile.row, picture);
      const at = pose.lens.clone().addScaledVector(pose.along, -apex);
      const reach = Math.min(outer * 1.04, WIDEST);
      const same = tile.drawn && at.distanceToSquared(tile.apex) < 1e-7 && pose.along.distanceToSquared(tile.along) < 1e-8 && Math.abs(reach - tile.reach) < 1e-4 * reach;
      if (same && !tile.urgent && !soft) continue;
      if (!tile.urgent && (left-- <= 0 || (this.redrawn > 0 && performance.now() > until))) {
        done = false;
        continue;
      }
      tile.apex.copy(at);
      tile.along.copy(pose.along);
      tile.side.copy(pose.side);
      tile.reach = reach;
      this.drawTile(i, tile, apex, spread);
      tile.drawn = true;
      tile.urgent = false;
      live.setTile(tile.row, i + 1);
      this.redrawn += 1;
    }
    return done;
  }

  private drawTile(i: number, tile: Tile, apex: number, spread: [number, number]): void {
    const up = new THREE.Vector3().crossVectors(tile.side, tile.along);
    const near = apex + 0.06;
    const far = apex + RANGE_M;
    const size = near * tile.reach;
    const projection = new THREE.Matrix4().makePerspective(-size, size, size, -size, near, far, THREE.WebGLCoordinateSystem);
    const lens = apex * Math.min(tile.reach, 1) * 0.7;
    const eye = tile.apex.clone().addScaledVector(tile.side, spread[0] * lens).addScaledVector(up, spread[1] * lens);
    const place = new THREE.Matrix4().makeBasis(tile.side, up, tile.along.clone().negate()).setPosition(eye);
    const light = this.solids.casterUniforms.uLight?.value as THREE.Matrix4;
    light.multiplyMatrices(projection, place.invert());
    light.toArray(this.matrices.image.data as Float32Array, i * 16);
    this.matrices.needsUpdate = true;
    const { renderer, target } = this;
    target.viewport.set((i % ATLAS_TILES) * TILE_PX, Math.floor(i / ATLAS_TILES) * TILE_PX, TILE_PX, TILE_PX);
    target.scissor.copy(target.viewport);
    target.scissorTest = true;
    renderer.setRenderTarget(target);
    renderer.clear(false, true, false);
    this.solids.castIn(tile);
    renderer.render(this.solids.casters, this.camera);
    this.also?.((i % ATLAS_TILES) / ATLAS_TILES, Math.floor(i / ATLAS_TILES) / ATLAS_TILES, 1 / ATLAS_TILES, eye);
  }

  dispose(): void {
    this.target.dispose();
    this.matrices.dispose();
  }
}
