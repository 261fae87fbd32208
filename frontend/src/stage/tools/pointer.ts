import * as THREE from "three";
import type { Vec3 } from "../data";
import { orbit, pan, type Viewpoint, zoom } from "../view/cameras";
import type { ShownPane } from "../view/panes";
import type { At, Hold, StageTool, ToolStage } from "./tool";

const CLICK_PX = 4;

type Gesture =
  | { kind: "press"; from: At }
  | { kind: "hold"; hold: Hold; from: At }
  | { kind: "orbit"; about: THREE.Vector3 }
  | { kind: "pan"; depth: number };

/** What the pointer knows of the stage besides what tools do. */
export interface PointerStage extends ToolStage {
  readonly tool: StageTool;
  layout(): ShownPane[];
  paneAt(x: number): ShownPane | undefined;
  setViewpoint(pane: string, to: Viewpoint): void;
  setHover(over: string | null, handle: string | null): void;
}

/**
 * The pointer on the stage: left selects or does the tool, right or Alt orbits about what is under it, middle or Space
 * pans, the wheel zooms to it. Two fingers pan, a pinch zooms, Alt and two fingers orbit.
 */
export class Pointer {
  private gesture: Gesture | null = null;
  private paneId = "";
  private last = { x: 0, y: 0 };
  private space = false;
  private readonly undo: (() => void)[] = [];

  constructor(
    private readonly stage: PointerStage,
    private readonly element: HTMLElement,
  ) {
    const on = <K extends keyof HTMLElementEventMap>(name: K, act: (event: HTMLElementEventMap[K]) => void, target: EventTarget = element) => {
      target.addEventListener(name, act as EventListener, { passive: false });
      this.undo.push(() => target.removeEventListener(name, act as EventListener));
    };
    on("pointerdown", (event) => this.down(event));
    on("pointermove", (event) => this.move(event));
    on("pointerup", (event) => this.up(event));
    on("pointercancel", () => this.cancel());
    on("pointerleave", () => this.stage.setHover(null, null));
    on("contextmenu", (event) => event.preventDefault());
    on("wheel", (event) => this.wheel(event));
    on("keydown", (event) => this.key(event, true), window);
    on("keyup", (event) => this.key(event, false), window);
  }

  dispose(): void {
    for (const undo of this.undo) undo();
  }

  private key(event: KeyboardEvent, down: boolean): void {
    if (event.code === "Space" && !(event.target instanceof HTMLInputElement)) this.space = down;
    if (down && event.key === "Escape" && this.gesture?.kind === "hold" && this.gesture.hold.cancel) this.cancel();
  }

  private at(event: MouseEvent): { x: number; y: number } {
    const box = this.element.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  }

  private place(event: MouseEvent, pane: ShownPane): At {
    return { pane, ...this.at(event), shift: event.shiftKey, ctrl: event.ctrlKey };
  }

  private pane(): ShownPane | undefined {
    return this.stage.layout().find((one) => one.pane.id === this.paneId);
  }

  private down(event: PointerEvent): void {
    const { x, y } = this.at(event);
    const pane = this.stage.paneAt(x);
    if (!pane) return;
    // Keys go to the stage, and a field that was being typed in commits.
    this.element.focus();
    this.element.setPointerCapture(event.pointerId);
    this.paneId = pane.pane.id;
    this.last = { x, y };
    const surface = this.stage.surfaceAt(pane, x, y);
    const about = surface?.point ?? pane.viewpoint.target;
    if (event.button === 1 || (event.button === 0 && this.space) || (event.button === 2 && pane.pane.view !== "free")) {
      this.gesture = { kind: "pan", depth: about.distanceTo(pane.viewpoint.eye) };
    } else if (event.button === 2 || (event.button === 0 && event.altKey && pane.pane.view === "free")) {
      this.gesture = { kind: "orbit", about: about.clone() };
    } else if (event.button === 0) {
      const from = this.place(event, pane);
      const hold = this.stage.tool.press(from);
      this.gesture = hold ? { kind: "hold", hold, from } : { kind: "press", from };
    }
    event.preventDefault();
  }

  private move(event: PointerEvent): void {
    const { x, y } = this.at(event);
    const dx = x - this.last.x;
    const dy = y - this.last.y;
    const { gesture } = this;
    if (!gesture) return this.hover(event);
    const pane = this.pane();
    if (!pane) return;
    if (gesture.kind === "orbit") {
      this.stage.setViewpoint(this.paneId, orbit(pane.viewpoint, gesture.about, -dx * 0.006, -dy * 0.006));
    } else if (gesture.kind === "pan") {
      this.shift(pane, dx, dy, gesture.depth);
    } else if (gesture.kind === "hold") {
      gesture.hold.move(this.place(event, gesture.from.pane));
    } else if (Math.hypot(x - gesture.from.x, y - gesture.from.y) > CLICK_PX) {
      const hold = this.stage.tool.pull(gesture.from);
      if (hold) this.gesture = { kind: "hold", hold, from: gesture.from };
    }
    this.last = { x, y };
  }

  private hover(event: PointerEvent): void {
    const { x, y } = this.at(event);
    const pane = this.stage.paneAt(x);
    if (!pane) return;
    const handle = this.stage.tool.hover(this.place(event, pane));
    const id = handle ? null : this.stage.thingAt(pane, x, y);
    this.stage.setHover(id, handle);
    const surface = this.stage.surfaceAt(pane, x, y);
    this.stage.events.onPointer({
      pane: pane.pane.id, id,
      point: surface ? (surface.point.toArray() as Vec3) : null,
      normal: surface ? (surface.normal.toArray() as Vec3) : null,
      away: surface && pane.pane.view === "free" ? surface.distance : null,
    });
  }

  private up(event: PointerEvent): void {
    const { gesture } = this;
    this.gesture = null;
    if (gesture?.kind !== "hold" && gesture?.kind !== "press") return;
    const at = this.place(event, gesture.from.pane);
    if (gesture.kind === "hold") gesture.hold.end(at);
    else if (Math.hypot(at.x - gesture.from.x, at.y - gesture.from.y) <= CLICK_PX) this.stage.tool.click(at);
  }

  private cancel(): void {
    if (this.gesture?.kind === "hold") this.gesture.hold.cancel?.();
    this.gesture = null;
  }

  private shift(pane: ShownPane, dx: number, dy: number, depth: number): void {
    const perPixel =
      pane.viewpoint.view === "free"
        ? (2 * depth * Math.tan(THREE.MathUtils.degToRad(23))) / pane.height
        : pane.viewpoint.height / pane.height;
    const right = new THREE.Vector3().setFromMatrixColumn(pane.camera.matrixWorld, 0);
    const up = new THREE.Vector3().setFromMatrixColumn(pane.camera.matrixWorld, 1);
    const by = right.multiplyScalar(-dx * perPixel).addScaledVector(up, dy * perPixel);
    this.stage.setViewpoint(pane.pane.id, pan(pane.viewpoint, by));
  }

  private wheel(event: WheelEvent): void {
    event.preventDefault();
    const { x, y } = this.at(event);
    const pane = this.stage.paneAt(x);
    if (!pane) return;
    // A trackpad's two fingers come as pixels without Ctrl, its pinch with Ctrl; a wheel in lines or large steps.
    const trackpad = event.deltaMode === 0 && !event.ctrlKey && (event.deltaX !== 0 || Math.abs(event.deltaY) < 40);
    const surface = this.stage.surfaceAt(pane, x, y);
    const target = surface?.point ?? this.stage.ray(pane, x, y).ray.at(12, new THREE.Vector3());
    if (pane.pane.view === "section" && event.shiftKey) {
      // A turn moves the cut towards stage left or right. Shift makes of it one to the side in some browsers.
      const on = (event.deltaY || event.deltaX) > 0 ? 1 : -1;
      this.stage.setViewpoint(pane.pane.id, pan(pane.viewpoint, new THREE.Vector3(on * this.stage.measures.move, 0, 0)));
    } else if (trackpad && event.altKey && pane.pane.view === "free") {
      this.stage.setViewpoint(pane.pane.id, orbit(pane.viewpoint, target, event.deltaX * 0.004, event.deltaY * 0.004));
    } else if (trackpad) {
      this.shift(pane, -event.deltaX, -event.deltaY, target.distanceTo(pane.viewpoint.eye));
    } else {
      const strength = event.ctrlKey ? 0.01 : 0.0015;
      this.stage.setViewpoint(pane.pane.id, zoom(pane.viewpoint, target, Math.exp(event.deltaY * strength)));
    }
  }
}
