import * as THREE from "three";
import { screenGeometry } from "./material";
import { Pace } from "./pace";
import type { PaneShot } from "./pipeline";

type Uniforms = Record<string, THREE.IUniform>;
/** A pass: a mesh that is drawn by itself, or a material over the whole target. */
export type What = THREE.Mesh | THREE.RawShaderMaterial;
/** Drawing goes on in steps: whoever runs it may wait between them. */
export type Steps = Generator<void, void, void>;

/** Does passes, whole or in bands, and keeps the uniforms that they share. */
export class Passes {
  readonly pace = new Pace();
  /** Told of each pass when it has been asked for, by name: for the bench. */
  watch: ((pass: string) => void) | null = null;
  private readonly screen = new THREE.Mesh(screenGeometry());
  private readonly camera = new THREE.Camera();
  private readonly one = new THREE.Scene();

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    readonly uniforms: Uniforms,
  ) {
    this.screen.frustumCulled = false;
    this.one.matrixWorldAutoUpdate = false;
  }

  set(name: string, value: unknown): void {
    (this.uniforms[name] as THREE.IUniform).value = value;
  }

  size(name: string, x: number, y: number): void {
    (this.uniforms[name]?.value as THREE.Vector2).set(x, y);
  }

  private ready(what: What): string {
    const mesh = what instanceof THREE.Mesh ? what : this.screen;
    if (what instanceof THREE.RawShaderMaterial) this.screen.material = what;
    this.one.children = [mesh];
    return (mesh.material as THREE.Material).name;
  }

  private done(name: string, key: string, share: number): void {
    this.pace.began(key, share);
    this.watch?.(name);
  }

  /** A pass into a target, from the bottom up in bands where it would take long. */
  *pass(what: What, target: THREE.WebGLRenderTarget, clear: boolean): Steps {
    const key = `${this.ready(what)}/${target.width}x${target.height}`;
    const bands = Math.min(this.pace.bands(key), target.height);
    for (let band = 0; band < bands; band++) {
      const name = this.ready(what);
      const from = Math.round((band / bands) * target.height);
      const to = Math.round(((band + 1) / bands) * target.height);
      this.size("uSize", target.width, target.height);
      target.scissor.set(0, from, target.width, to - from);
      target.scissorTest = bands > 1;
      this.renderer.setRenderTarget(target);
      if (clear) this.renderer.clear(true, false, false);
      this.renderer.render(this.one, this.camera);
      target.scissorTest = false;
      this.done(name, key, 1 / bands);
      yield;
    }
  }

  /** A scene into what is the target now, some of its things at a time where it would take long. */
  *scene(name: string, scene: THREE.Scene, target: THREE.WebGLRenderTarget, more: readonly THREE.Mesh[] = []): Steps {
    const key = `${name}/${target.width}x${target.height}`;
    const own = scene.children;
    const things = [...own, ...more];
    const bands = Math.min(this.pace.bands(key), Math.max(things.length, 1));
    for (let band = 0; band < bands; band++) {
      // Round and round, so that each part has some of what is large.
      scene.children = bands === 1 ? things : things.filter((_, i) => i % bands === band);
      this.renderer.setRenderTarget(target);
      if (band === 0) this.renderer.clear(true, true, false);
      this.renderer.render(scene, this.camera);
      scene.children = own;
      this.done(name, key, 1 / bands);
      yield;
    }
  }

  /** A few meshes, all by one material, into a target that is cleared to these values, attachment by attachment. */
  *meshes(name: string, list: readonly THREE.Mesh[], material: THREE.Material, target: THREE.WebGLRenderTarget, clear: readonly number[][]): Steps {
    this.renderer.setRenderTarget(target);
    if (target.depthBuffer) this.renderer.clear(false, true, false);
    this.draw(list, material, clear);
    this.done(name, `${name}/${target.width}x${target.height}`, 1);
    yield;
  }

  /** Meshes by one material into what is the target now. */
  draw(list: readonly THREE.Mesh[], material: THREE.Material, clear: readonly number[][]): void {
    const gl = this.renderer.getContext() as WebGL2RenderingContext;
    // Values beyond 0..1 cannot be cleared to by way of a clear colour.
    clear.forEach((values, i) => gl.clearBufferfv(gl.COLOR, i, values));
    this.one.children = [...list];
    this.one.overrideMaterial = material;
    this.renderer.render(this.one, this.camera);
    this.one.overrideMaterial = null;
  }

  /** A pass onto the pane's part of the canvas, or onto the shot's target; `share` of its size is what it reads. */
  onto(shot: PaneShot, material: THREE.RawShaderMaterial): void {
    const { renderer } = this;
    const name = this.ready(material);
    this.size("uSize", shot.width, shot.height);
    this.size("uCorner", shot.x, shot.y);
    renderer.setRenderTarget(shot.target);
    if (!shot.target) {
      const ratio = renderer.getPixelRatio();
      renderer.setViewport(shot.x / ratio, shot.y / ratio, shot.width / ratio, shot.height / ratio);
    }
    renderer.render(this.one, this.camera);
    this.size("uCorner", 0, 0);
    this.done(name, `${name}/${shot.width}x${shot.height}`, 1);
  }

  /** Work that is no pass of its own, such as a few shadow tiles. */
  other(name: string): void {
    this.done(name, name, 1);
  }
}

/** Do all the steps at once. */
export function all(steps: Steps): void {
  while (!steps.next().done);
}
