import * as THREE from "three";
import type { Pane, Vec3, Walls } from "../data";
import { cameraFor, homeViewpoint, type Viewpoint } from "./cameras";

const GLIDE_MS = 140;

/** What is left out of a pane: nothing of a section, which is open where it is cut. */
export function wallsOf({ view, walls }: Pane): Walls {
  return view === "section" ? "whole" : (walls ?? "rooms");
}

/** A pane as it lies on the stage now. */
export interface ShownPane {
  pane: Pane;
  viewpoint: Viewpoint;
  camera: THREE.PerspectiveCamera | THREE.OrthographicCamera;
  /** CSS pixels from the top left of the stage. */
  left: number;
  top: number;
  width: number;
  height: number;
}

/** The panes of a stage, how they lie beside each other, and where each looks from. */
export class Panes {
  list: Pane[] = [];
  width = 0;
  height = 0;
  private readonly viewpoints = new Map<string, Viewpoint>();
  /** The panes that nobody has looked round in. */
  private readonly untouched = new Set<string>();
  /** The boxes round all that is built, with the rooms round it and without; null: nothing is. */
  private built: THREE.Box3 | null = null;
  private within: THREE.Box3 | null = null;
  private glide: { pane: string; from: Viewpoint; to: Viewpoint; since: number } | null = null;

  get ids(): string[] {
    return this.list.map((pane) => pane.id);
  }

  set(panes: Pane[]): void {
    this.list = panes;
    for (const pane of panes) if (this.viewpoints.get(pane.id)?.view !== pane.view) this.goHome(pane.id);
  }

  /** What is built now. Where the first of it comes, panes that nobody has looked round in show all of it; none jumps later. */
  setBuilt(built: THREE.Box3 | null, within: THREE.Box3 | null): void {
    const first = this.built === null && built !== null;
    Object.assign(this, { built, within });
    if (first) for (const pane of this.untouched) this.goHome(pane);
  }

  private goHome(pane: string): void {
    this.viewpoints.set(pane, this.home(pane));
    this.untouched.add(pane);
  }

  viewpoint(pane: string): Viewpoint {
    return this.viewpoints.get(pane) ?? homeViewpoint("free");
  }

  home(pane: string): Viewpoint {
    const view = this.list.find((one) => one.id === pane)?.view ?? "free";
    const shown = this.built && this.layout().find((one) => one.pane.id === pane);
    // A plan is of what stands in the room: the rest of a long hall would make that small.
    return shown ? homeViewpoint(view, view === "plan" ? this.within : this.built, shown.width / shown.height) : homeViewpoint(view);
  }

  look(pane: string, to: Viewpoint): void {
    this.untouched.delete(pane);
    this.viewpoints.set(pane, to);
  }

  /** Go to a place to look from, with a short glide unless the system asks for no motion. */
  lookFrom(pane: string, eye: Vec3, target: Vec3): void {
    this.untouched.delete(pane);
    const from = this.viewpoint(pane);
    const to: Viewpoint = { ...from, eye: new THREE.Vector3(...eye), target: new THREE.Vector3(...target) };
    const still = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
    // A place that was asked for keeps its name; only moving away from it by hand forgets it.
    if (still || from.view !== "free") this.viewpoints.set(pane, to);
    else this.glide = { pane, from, to, since: performance.now() };
  }

  /** Whether a pane is on its way to a viewpoint. */
  get gliding(): boolean {
    return this.glide !== null;
  }

  /** A step on the way. Returns the pane that moved. */
  step(now: number): string | null {
    if (!this.glide) return null;
    const share = Math.min((now - this.glide.since) / GLIDE_MS, 1);
    const { pane, from, to } = this.glide;
    this.viewpoints.set(pane, { ...to, eye: from.eye.clone().lerp(to.eye, share), target: from.target.clone().lerp(to.target, share) });
    if (share >= 1) this.glide = null;
    return pane;
  }

  /** The panes as they lie now, in CSS pixels. */
  layout(): ShownPane[] {
    const whole = this.list.reduce((sum, pane) => sum + pane.share, 0) || 1;
    let left = 0;
    return this.list.map((pane, i) => {
      const last = i === this.list.length - 1;
      const width = last ? this.width - left : Math.round((pane.share / whole) * this.width);
      const viewpoint = this.viewpoint(pane.id);
      const made = {
        pane, viewpoint, left, top: 0, width: Math.max(2, width), height: this.height,
        camera: cameraFor(viewpoint, Math.max(2, width) / this.height),
      };
      left += width;
      return made;
    });
  }
}
