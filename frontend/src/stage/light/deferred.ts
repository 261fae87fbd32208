import * as THREE from "three";
import type { BeamState } from "../scene/beams";
import type { Landings } from "../scene/landings";
import type { Solids } from "../scene/solids";
import AMBIENT from "./ambient.frag.glsl?raw";
import BOUNCE from "./bounce.frag.glsl?raw";
import CONE from "./cone.vert.glsl?raw";
import { Developer } from "./develop";
import DRAWN from "./drawn.frag.glsl?raw";
import GATHER from "./gather.frag.glsl?raw";
import type { GoboStore, WebStore } from "./gobos";
import LENS_FRAGMENT from "./lens.frag.glsl?raw";
import LENS_VERTEX from "./lens.vert.glsl?raw";
import { ANY_BEAM, beamMaterial, Copies, type Kind, type Part, screenMaterial, Variants } from "./material";
import type { Mean } from "./mean";
import { all, Passes, type Steps } from "./passes";
import { Patches } from "./patches";
import type { LightPipeline, PaneShot } from "./pipeline";
import SHAFT from "./shaft.frag.glsl?raw";
import { ShadowAtlas, TILES } from "./shadows";
import { TargetStore, type Targets } from "./targets";
import { TiledLight } from "./tiles";
import { clouds, sharedUniforms, srgb } from "./uniforms";
import { type Veil, Veils } from "./veils";

const BOXES = 6;
const TILES_A_SLICE = 4;
/** While something moves, shadow tiles take no more of a frame's script. */
const TILES_MS = 0.6;

/**
 * Deferred light: surfaces once, then one draw for all pools and one for all shafts, whatever the number of
 * fixtures (docs/decisions.md). What a frame goes through: surfaces, shadow tiles, bounce, work light, pools, lenses,
 * shafts, glare, bloom, tone curve, smoothing.
 */
export class DeferredLight implements LightPipeline {
  readonly uniforms = sharedUniforms();
  readonly shadows: ShadowAtlas;
  private readonly targets = new TargetStore();
  private readonly cones = new Copies("cone");
  private readonly squares = new Copies("square");
  readonly passes: Passes;
  readonly developer: Developer;
  private readonly tiled: TiledLight;
  private readonly shafts: Variants;
  private readonly veils: Veils;
  private readonly lenses: THREE.Mesh;
  private readonly glare: THREE.Mesh;
  private readonly materials: Record<"ambient" | "bounce" | "gather" | "drawn", THREE.RawShaderMaterial>;
  private readonly patches = new Map<string, Patches>();
  private readonly boxes = new THREE.DataTexture(new Float32Array(BOXES * 12), 3, BOXES, THREE.RGBAFormat, THREE.FloatType);
  private boxCount = 0;
  private boxesOf = -1;
  /** While something moves, frames catch up in turn: with where beams land, or with shadow tiles. */
  private turn = true;
  /** Whether the last picture left shadows or bounce for the next frame. */
  unfinished = false;
  /** Light bounces at this share of its strength; 0 in tests of what a beam alone does. */
  bounceGain = 1;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly solids: Solids,
    private readonly beams: BeamState,
    private readonly landings: Landings,
    readonly gobos: GoboStore,
    readonly webs: WebStore,
  ) {
    const shared = this.uniforms;
    this.passes = new Passes(renderer, shared);
    this.developer = new Developer(this.passes);
    this.shadows = new ShadowAtlas(renderer, beams, solids);
    this.tiled = new TiledLight(this.passes);
    this.veils = new Veils(renderer, this.passes, solids);
    this.shadows.also = (x, y, share, from) => this.veils.tile(x, y, share, from);
    this.shafts = new Variants((name, parts) => this.mesh(this.cones.geometry, beamMaterial(name, CONE, SHAFT, shared, parts, { depthTest: false, side: THREE.BackSide })), "shafts");
    this.lenses = this.mesh(this.squares.geometry, beamMaterial("lenses", LENS_VERTEX, LENS_FRAGMENT, shared, ANY_BEAM, { side: THREE.DoubleSide }));
    this.glare = this.mesh(this.squares.geometry, beamMaterial("glare", LENS_VERTEX, LENS_FRAGMENT, shared, ANY_BEAM, { depthTest: false, side: THREE.DoubleSide }));
    this.materials = {
      ambient: screenMaterial("work light", AMBIENT, shared),
      bounce: screenMaterial("bounce", BOUNCE, shared, { pixel: true }),
      gather: screenMaterial("gather", GATHER, shared),
      drawn: screenMaterial("drawn", DRAWN, shared),
    };
    this.set("uClouds", clouds());
  }

  /** The colours of lines, from the theme. */
  setTheme(ground: string, line: string, fill: string): void {
    srgb(ground, this.uniforms.uGround?.value as THREE.Vector3);
    srgb(line, this.uniforms.uLine?.value as THREE.Vector3);
    srgb(fill, this.uniforms.uFill?.value as THREE.Vector3);
  }

  private mesh(geometry: THREE.BufferGeometry, material: THREE.RawShaderMaterial): THREE.Mesh {
    const mesh = new THREE.Mesh(geometry, material);
    mesh.frustumCulled = false;
    return mesh;
  }

  private set(name: string, value: unknown): void {
    this.passes.set(name, value);
  }

  draw(shot: PaneShot): void {
    all(this.steps(shot));
  }

  /** All that is done for a pane, step by step. */
  *steps(shot: PaneShot): Steps {
    const targets = this.targetsOf(shot);
    yield* this.lightSteps(shot, targets);
    if (shot.shade === "lit" && shot.mean) this.addTo(shot.mean, targets);
    if (shot.shade === "lit") yield* this.developer.develop(shot, targets, shot.mean?.shown ?? targets.gathered);
    else this.passes.onto(shot, this.materials.drawn);
  }

  targetsOf(shot: PaneShot): Targets {
    const share = shot.shade === "lit" ? (shot.share ?? 1) : 1;
    return this.targets.get(Math.max(2, Math.round(shot.width * share)), Math.max(2, Math.round(shot.height * share)));
  }

  /** Everything up to the light of the picture, in `targets.gathered`; for drawn shades the surfaces only. */
  drawLight(shot: PaneShot, targets: Targets = this.targetsOf(shot)): Targets {
    all(this.lightSteps(shot, targets));
    return targets;
  }

  private *lightSteps(shot: PaneShot, targets: Targets): Steps {
    const { renderer, passes } = this;
    this.unfinished = false;
    this.setCamera(shot, targets.height);
    const picture = this.beams.pictures.get(shot.picture);
    this.set("uStatic", this.beams.static);
    this.set("uDynamic", picture?.dynamic ?? null);
    this.set("uPrisms", this.beams.prisms);
    this.set("uGobos", this.gobos.texture);
    this.set("uGoboMeans", this.gobos.meansTexture);
    this.set("uWebs", this.webs.texture);
    this.set("uTime", shot.clock);
    this.set("uMix", picture?.mix(shot.now) ?? 1);
    this.setSurface(targets.surface);
    this.setExposure(shot);
    renderer.autoClear = false;
    this.solids.prepare(shot.camera, (shot.share ?? 1) < 1 ? "moving" : shot.quality.name === "Still" ? "still" : "usual");
    const shadowed = shot.shade === "lit" && shot.quality.shadows > 0 && picture !== undefined;
    this.turn = !shadowed || !this.turn;
    if (shadowed) yield* this.prepareShadows(shot);
    this.set("uShadows", this.shadows.target.depthTexture);
    this.set("uShadowMatrices", this.shadows.matrices);

    const count = picture ? this.beams.count : 0;
    if (this.beams.count > 0) yield* this.tiled.poseParts(this.beams.count);
    const veil = this.veils.any && shot.shade === "lit" ? this.veils.of(targets) : null;
    this.set("uVeiled", veil ? 1 : 0);
    yield* passes.scene("surfaces", this.solids.scene, targets.surface, veil ? [] : this.solids.sheer.flatMap(({ levels }) => levels));
    if (shot.shade !== "lit") return;
    if (veil) yield* this.veils.surfaces(targets, veil);

    this.prepareBounce(shot);
    const more: Part[] = [...(shadowed ? ["SHADOWS" as const] : []), ...(veil ? ["VEILS" as const] : [])];
    this.cones.show(count);
    this.squares.show(count);
    if (count > 0) yield* this.tiled.packBeams(count);
    yield* this.lightOf(targets, count, shadowed ? more : []);
    if (count > 0) {
      this.set("uGlare", 0);
      yield* passes.pass(this.lenses, targets.light, false);
    }
    if (veil) yield* this.lightOfVeil(targets, veil, count, shadowed ? more : []);
    const air = count > 0 && shot.quality.shafts && shot.exposure.hazePerM > 0;
    this.set("uAir", air ? (shot.quality.pattern ? 2 : 1) : 0);
    if (air) yield* this.airSteps(shot, targets, more);
    this.set("uLight", targets.light.texture);
    this.set("uShafts", targets.shafts.texture);
    this.set("uMist", targets.haze.texture);
    yield* passes.pass(this.materials.gather, targets.gathered, true);
    if (count > 0 && shot.quality.bloom) {
      this.set("uGlare", 1);
      yield* passes.pass(this.glare, targets.gathered, false);
    }
  }

  private setSurface(surface: THREE.WebGLRenderTarget): void {
    const [albedo, normal, distance] = surface.textures;
    this.set("uAlbedo", albedo);
    this.set("uNormal", normal);
    this.set("uDistance", distance);
  }

  /** All light on the surfaces that are set, into `targets.light`. */
  private *lightOf(targets: Targets, count: number, parts: readonly Part[]): Steps {
    if (((this.uniforms.uBounceGain as THREE.IUniform).value as number) > 0) {
      this.passes.size("uFull", targets.width, targets.height);
      this.passes.size("uCorner", 0, 0);
      this.set("uBounce", targets.bounce.texture);
      yield* this.passes.pass(this.materials.bounce, targets.bounce, true);
    }
    yield* this.passes.pass(this.materials.ambient, targets.light, true);
    if (count > 0) yield* this.tiled.steps(targets, count, parts);
  }

  private *lightOfVeil(targets: Targets, veil: Veil, count: number, parts: readonly Part[]): Steps {
    this.setSurface(veil.surface);
    yield* this.lightOf({ ...targets, surface: veil.surface, light: veil.light }, count, parts);
    this.setSurface(targets.surface);
  }

  /** Shafts. Without patterns all are drawn as if their gates were empty, by as much less as those let through. */
  private *airSteps({ quality }: PaneShot, targets: Targets, parts: readonly Part[]): Steps {
    this.set("uSteps", quality.samples);
    const of = (kind: Kind) => this.shafts.of(kind, parts);
    yield* this.shaftsOf(1, of("plain"), targets.haze, true);
    yield* this.shaftsOf(3, of("spread"), targets.haze, false);
    if (quality.pattern) yield* this.shaftsOf(0, of("gate"), targets.shafts, true);
    else yield* this.shaftsOf(0, of("spread"), targets.haze, false);
  }

  private *shaftsOf(kind: number, shafts: THREE.Mesh, target: THREE.WebGLRenderTarget, clear: boolean): Steps {
    this.set("uOnly", kind);
    yield* this.passes.pass(shafts, target, clear);
  }

  private setCamera({ camera }: PaneShot, height: number): void {
    camera.updateMatrixWorld();
    const viewProjection = this.uniforms.uViewProjection?.value as THREE.Matrix4;
    viewProjection.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    (this.uniforms.uInverse?.value as THREE.Matrix4).copy(viewProjection).invert();
    camera.getWorldPosition(this.uniforms.uEye?.value as THREE.Vector3);
    (this.uniforms.uEyeAt?.value as THREE.Vector3).copy(this.uniforms.uEye?.value as THREE.Vector3);
    camera.getWorldDirection(this.uniforms.uForward?.value as THREE.Vector3);
    const ortho = camera instanceof THREE.OrthographicCamera;
    const pixel = ortho ? (camera.top - camera.bottom) / camera.zoom / height : (2 * Math.tan(THREE.MathUtils.degToRad((camera as THREE.PerspectiveCamera).fov / 2))) / height;
    this.set("uOrtho", ortho ? 1 : 0);
    this.set("uPixel", pixel);
    this.set("uReach", ortho ? Math.max(0.04, pixel) : 0.05);
  }

  private setExposure({ exposure, adapt, shade }: PaneShot): void {
    this.set("uExposure", exposure.shownPerCd);
    this.set("uAdapt", adapt);
    this.set("uHaze", exposure.hazePerM);
    this.set("uUneven", exposure.hazeUneven);
    this.set("uWork", exposure.workLightLx);
    this.set("uHouse", exposure.houseLightLx);
    this.set("uBloom", exposure.bloom);
    this.set("uShaftGain", exposure.shaftGain);
    this.set("uPoolGain", exposure.poolGain);
    this.set("uBodyGain", exposure.bodyGain);
    this.set("uUnlit", shade === "unlit" ? 1 : 0);
    this.set("uLines", shade === "lines" ? 1 : 0);
    const w = exposure.white as [number, number, number, number, number, number, number, number, number];
    (this.uniforms.uWhite?.value as THREE.Matrix3).set(...w);
    srgb(exposure.skyLow, this.uniforms.uSkyLow?.value as THREE.Vector3);
    srgb(exposure.skyHigh, this.uniforms.uSkyHigh?.value as THREE.Vector3);
  }

  /** Pictures shown beside each other share the atlas, half of it each. */
  private *prepareShadows(shot: PaneShot): Steps {
    const shown = [...this.beams.pictures.keys()];
    const second = shown.length > 1 && shot.picture !== "live";
    const from = second ? TILES / 2 : 0;
    const most = Math.min(shot.quality.shadows, shown.length > 1 ? TILES / 2 : TILES);
    const budget = shot.atRest ? TILES : this.turn ? 0 : shot.quality.tilesAFrame;
    const slice = this.passes.pace.sliced ? TILES_A_SLICE : budget;
    for (let left = budget; ; left -= slice) {
      const done = this.shadows.update(shot.picture, from, from + most, Math.min(slice, left), [0, 0], shot.atRest ? Infinity : TILES_MS);
      this.passes.other("shadow tiles");
      if (done) return;
      if (left <= slice) break;
      yield;
    }
    this.unfinished = true;
  }

  /** Bring the light that bounces up to date; it is drawn with all other light on surfaces. */
  private prepareBounce(shot: PaneShot): void {
    const on = shot.quality.bounce && this.bounceGain > 0;
    const picture = this.beams.pictures.get(shot.picture);
    this.set("uBounceGain", on ? this.bounceGain * shot.exposure.poolGain : 0);
    this.set("uPatchCount", 0);
    this.set("uFurther", 0);
    if (on && picture) {
      let patches = this.patches.get(shot.picture);
      if (!patches) {
        if (this.patches.size > 3) this.patches.clear();
        patches = new Patches(this.beams, this.landings, this.solids);
        this.patches.set(shot.picture, patches);
      }
      if (!patches.update(shot.picture, `${picture.version}/${this.beams.placed}/${this.solids.version}`, { gobos: this.gobos.means, webs: this.webs.angles }, shot.atRest, this.turn)) this.unfinished = true;
      this.set("uPatches", patches.texture);
      this.setBoxes(shot.quality.shadows > 0);
      this.set("uPatchCount", patches.count);
      this.set("uFurther", patches.further);
    }
    this.set("uOcclusion", on ? 1 : 0);
  }

  /** With shadows, large flat things stand in the way of bounced light as well. */
  private setBoxes(on: boolean): void {
    this.set("uBoxCount", on ? this.boxCount : 0);
    if (!on || this.boxesOf === this.solids.version) return;
    this.boxesOf = this.solids.version;
    const boxes = this.solids.boxes(BOXES);
    const data = this.boxes.image.data as Float32Array;
    boxes.forEach(({ middle, half, turn }, i) => data.set([...middle.toArray(), 0, ...half.toArray(), 0, ...turn], i * 12));
    this.boxes.needsUpdate = true;
    this.boxCount = boxes.length;
    this.set("uBoxes", this.boxes);
    this.set("uBoxCount", boxes.length);
  }

  /** Mix what was drawn last into the mean of several pictures. */
  addTo(mean: Mean, targets: Targets): void {
    mean.add(targets.gathered, (picture, before, to, share) => this.developer.average(picture, before, to, share));
  }

  /** Another pattern of jitter for the next sample of several. */
  seed(value: number): void {
    this.set("uSeed", value);
  }

  /** The light of a pane as numbers at one of its pixels: luminance by colour (cd/m2) of what is opaque there and of all that is
   * seen there, reflectance, place, face. */
  probe(shot: PaneShot, px: number, py: number): { luminance: number[]; seen: number[]; albedo: number[]; normal: number[]; away: number } {
    this.set("uShine", 0);
    const targets = this.drawLight({ ...shot, quality: { ...shot.quality, shafts: false, bloom: false } });
    this.set("uShine", 1);
    const read = (target: THREE.WebGLRenderTarget, index: number) => this.numbers(target, px, py, 1, 1, index);
    return {
      luminance: read(targets.light, 0).slice(0, 3).map((one) => one / shot.exposure.shownPerCd),
      seen: read(targets.gathered, 0).slice(0, 3).map((one) => one / shot.exposure.shownPerCd),
      albedo: read(targets.surface, 0).slice(0, 3).map((one) => (one / 255) ** 2),
      normal: read(targets.surface, 1).slice(0, 3),
      away: read(targets.surface, 2)[0] ?? 0,
    };
  }

  private numbers(target: THREE.WebGLRenderTarget, x: number, y: number, width: number, height: number, index = 0): number[] {
    const type = target.textures[index]?.type;
    const count = width * height * 4;
    const data = type === THREE.FloatType ? new Float32Array(count) : type === THREE.HalfFloatType ? new Uint16Array(count) : new Uint8Array(count);
    this.renderer.readRenderTargetPixels(target, x, y, width, height, data, undefined, index);
    return Array.from(data, (one) => (type === THREE.HalfFloatType ? THREE.DataUtils.fromHalfFloat(one) : one));
  }

  /** The light in the air of a pane as numbers, texel by texel of the target that one kind of shaft is drawn to. */
  air(shot: PaneShot, kind: "plain" | "gate"): { width: number; height: number; luminance: number[]; away: number[] } {
    const targets = this.drawLight(shot);
    const { width, height } = kind === "gate" ? targets.shafts : targets.haze;
    const texels = this.numbers(kind === "gate" ? targets.shafts : targets.haze, 0, 0, width, height);
    const away = this.numbers(targets.surface, 0, 0, targets.width, targets.height, 2);
    const at = (k: number) => Math.min(Math.floor(((Math.floor(k / width) + 0.5) * targets.height) / height), targets.height - 1) * targets.width + Math.min(Math.floor((((k % width) + 0.5) * targets.width) / width), targets.width - 1);
    return {
      width, height,
      luminance: texels.filter((_, i) => i % 4 !== 3).map((one) => one / shot.exposure.shownPerCd),
      away: Array.from({ length: width * height }, (_, k) => away[at(k)] ?? 0),
    };
  }

  patchesOf(picture: string): Patches | undefined {
    return this.patches.get(picture);
  }

  dispose(): void {
    this.targets.dispose();
    this.cones.dispose();
    this.squares.dispose();
    this.tiled.dispose();
    this.shafts.dispose();
    this.veils.dispose();
    this.shadows.dispose();
    for (const patches of this.patches.values()) patches.dispose();
    this.developer.dispose();
    for (const one of Object.values(this.materials)) one.dispose();
  }
}
