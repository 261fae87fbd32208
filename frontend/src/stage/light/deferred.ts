import * as THREE from "three";
import type { BeamState } from "../scene/beams";
import type { Landings } from "../scene/landings";
import type { Solids } from "../scene/solids";
import { Developer } from "./develop";
import DRAWN from "./drawn.frag.glsl?raw";
import GATHER from "./gather.frag.glsl?raw";
import type { GoboStore, WebStore } from "./gobos";
import { type Part, screenMaterial } from "./material";
import type { Mean } from "./mean";
import { Ambient } from "./passes/ambient";
import { Bounce } from "./passes/bounce";
import { Figures } from "./passes/figures";
import { Glare, Lenses } from "./passes/lenses";
import type { Frame, LightPass, Onto } from "./passes/pass";
import { Pools } from "./passes/pools";
import { Shafts } from "./passes/shafts";
import type { LightPipeline, PaneShot } from "./pipeline";
import { ShadowAtlas, TILES } from "./shadows";
import { all, Passes, type Steps } from "./steps";
import { TargetStore, type Targets } from "./targets";
import { TiledLight } from "./tiles";
import { clouds, sharedUniforms, srgb } from "./uniforms";
import { type Veil, Veils } from "./veils";

const TILES_A_SLICE = 4;
/** While something moves, shadow tiles take no more of a frame's script. */
const TILES_MS = 0.6;

/** The light at a pixel as numbers: luminance by colour (cd/m2) of what is opaque there and of all that is seen there,
 * reflectance, face, how far it is. */
interface Read {
  luminance: number[];
  seen: number[];
  albedo: number[];
  normal: number[];
  away: number;
}

/**
 * Deferred light: surfaces once, then one draw for all pools and one for all shafts, whatever the number of
 * fixtures (docs/decisions.md). What a frame goes through: surfaces, shadow tiles, bounce, work light, pools, lenses,
 * shafts, glare, bloom, tone curve, smoothing.
 */
export class DeferredLight implements LightPipeline {
  readonly uniforms = sharedUniforms();
  readonly shadows: ShadowAtlas;
  private readonly targets = new TargetStore();
  readonly passes: Passes;
  readonly developer: Developer;
  private readonly tiled: TiledLight;
  private readonly veils: Veils;
  readonly bounce: Bounce;
  /** All kinds of light, in the order in which they are drawn. */
  readonly lights: LightPass[];
  private readonly materials: Record<"gather" | "drawn", THREE.RawShaderMaterial>;
  /** While something moves, frames catch up in turn: with where beams land, or with shadow tiles. */
  private turn = true;
  /** Whether the last picture left shadows or bounce for the next frame. */
  unfinished = false;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly solids: Solids,
    private readonly beams: BeamState,
    landings: Landings,
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
    this.bounce = new Bounce(this.passes, beams, landings, solids, gobos, webs);
    this.lights = [this.bounce, new Ambient(this.passes), new Pools(this.tiled), new Lenses(this.passes), new Shafts(this.passes), new Figures(this.passes, beams), new Glare(this.passes)];
    this.materials = { gather: screenMaterial("gather", GATHER, shared), drawn: screenMaterial("drawn", DRAWN, shared) };
    this.set("uClouds", clouds());
  }

  /** The colours of lines, from the theme. */
  setTheme(ground: string, line: string, fill: string, cut: string): void {
    srgb(ground, this.uniforms.uGround?.value as THREE.Vector3);
    srgb(line, this.uniforms.uLine?.value as THREE.Vector3);
    srgb(fill, this.uniforms.uFill?.value as THREE.Vector3);
    srgb(cut, this.uniforms.uCutLine?.value as THREE.Vector3);
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
    this.solids.section = shot.section;
    const cut = this.solids.cutawayFor(shot.camera, shot.walls);
    (this.uniforms.uBeyond?.value as THREE.Vector3).copy(cut.work);
    this.set("uCutAt", shot.section ? shot.camera.near : 0);
    this.solids.prepare(shot.camera, cut, (shot.share ?? 1) < 1 ? "moving" : shot.quality.name === "Still" ? "still" : "usual");
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

    if (!this.bounce.prepare(shot, this.turn)) this.unfinished = true;
    const more: Part[] = [...(shadowed ? ["SHADOWS" as const] : []), ...(veil ? ["VEILS" as const] : [])];
    const frame: Frame = { shot, targets, count, parts: shadowed ? more : [], airParts: more };
    if (count > 0) yield* this.tiled.packBeams(count);
    yield* this.put("surfaces", frame);
    yield* this.put("opaque", frame);
    if (veil) yield* this.onVeil(frame, veil);
    const air = this.lights.some((pass) => pass.onto === "air" && pass.on(frame));
    this.set("uAir", air ? (shot.quality.pattern ? 2 : 1) : 0);
    yield* this.put("air", frame);
    this.set("uLight", targets.light.texture);
    this.set("uShafts", targets.shafts.texture);
    this.set("uMist", targets.haze.texture);
    yield* passes.pass(this.materials.gather, targets.gathered, true);
    yield* this.put("picture", frame);
  }

  /** All light that belongs there. */
  private *put(onto: Onto, frame: Frame): Steps {
    for (const pass of this.lights) if (pass.onto === onto && pass.on(frame)) yield* pass.steps(frame);
  }

  private setSurface(surface: THREE.WebGLRenderTarget): void {
    const [albedo, normal, distance] = surface.textures;
    this.set("uAlbedo", albedo);
    this.set("uNormal", normal);
    this.set("uDistance", distance);
  }

  /** Gauze has surfaces of its own. */
  private *onVeil(frame: Frame, { surface, light }: Veil): Steps {
    this.setSurface(surface);
    yield* this.put("surfaces", { ...frame, targets: { ...frame.targets, surface, light } });
    this.setSurface(frame.targets.surface);
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

  /** Mix what was drawn last into the mean of several pictures. */
  addTo(mean: Mean, targets: Targets): void {
    mean.add(targets.gathered, (picture, before, to, share) => this.developer.average(picture, before, to, share));
  }

  /** Another pattern of jitter for the next sample of several. */
  seed(value: number): void {
    this.set("uSeed", value);
  }

  /** The light of a pane, drawn once, as numbers at some of its pixels. */
  probe(shot: PaneShot, pixels: readonly (readonly [number, number])[]): Read[] {
    this.set("uShine", 0);
    const targets = this.drawLight({ ...shot, quality: { ...shot.quality, shafts: false, bloom: false } });
    this.set("uShine", 1);
    return pixels.map(([px, py]) => {
      const read = (target: THREE.WebGLRenderTarget, index: number) => this.numbers(target, px, py, 1, 1, index);
      return {
        luminance: read(targets.light, 0).slice(0, 3).map((one) => one / shot.exposure.shownPerCd),
        seen: read(targets.gathered, 0).slice(0, 3).map((one) => one / shot.exposure.shownPerCd),
        albedo: read(targets.surface, 0).slice(0, 3).map((one) => (one / 255) ** 2),
        normal: read(targets.surface, 1).slice(0, 3),
        away: read(targets.surface, 2)[0] ?? 0,
      };
    });
  }

  /** The luminance of each pixel of what was drawn last with a shot, cd/m2, rows from the top. */
  luminance(shot: PaneShot): Float32Array {
    const { width, height } = shot;
    const read = this.numbers(this.targetsOf(shot).gathered, 0, 0, width, height);
    return Float32Array.from({ length: width * height }, (_, i) => {
      const at = ((height - 1 - Math.floor(i / width)) * width + (i % width)) * 4;
      return (0.2126729 * (read[at] ?? 0) + 0.7151522 * (read[at + 1] ?? 0) + 0.072175 * (read[at + 2] ?? 0)) / shot.exposure.shownPerCd;
    });
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

  dispose(): void {
    this.targets.dispose();
    for (const pass of this.lights) pass.dispose();
    this.veils.dispose();
    this.shadows.dispose();
    this.developer.dispose();
    for (const one of Object.values(this.materials)) one.dispose();
  }
}
