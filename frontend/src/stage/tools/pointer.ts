import * as THREE from "three";
import type { DrawPhase, DrawPlane, Vec3, ViewName } from "../data";
import type { Stage } from "../Stage";
import { orbit, pan, zoom } from "../view/cameras";
import { dragged, guideHandleAt } from "./guide";
import type { Handle } from "./handles";
import type { OverlayPane } from "./overlay";

const CLICK_PX = 4;
const SNAP_M = 0.1;
const SNAP_PX = 8;

const NORMALS: Record<DrawPlane, THREE.Vector3> = { plan: new THREE.Vector3(0, 0, 1), front: new THREE.Vector3(0, 1, 0), side: new THREE.Vector3(1, 0, 0) };

/** Where an outline lies that is drawn in a view. */
function planeOf(view: ViewName): DrawPlane {
  if (view === "front" || view === "back") return "front";
  return view === "plan" || view === "free" ? "plan" : "side";
}

type Gesture =
  | { kind: "press"; x: number; y: number; pane: OverlayPane }
  | { kind: "orbit"; about: THREE.Vector3 }
  | { kind: "box"; x: number; y: number; pane: OverlayPane }
  | { kind: "pan"; depth: number }
  | { kind: "guide"; name: string; from: Vec3; to: Vec3; pane: OverlayPane }
  | { kind: "drag"; handle: Handle; from: THREE.Vector3; pane: OverlayPane; delta: Vec3 };

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
    private readonly stage: Stage,
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
    if (down && event.key === "Escape" && (this.gesture?.kind === "drag" || this.gesture?.kind === "box")) this.cancel();
  }

  private at(event: MouseEvent): { x: number; y: number } {
    const box = this.element.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  }

  private pane(): OverlayPane | undefined {
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
      const handle = this.stage.tool === "select" ? this.stage.activeHandles.find((one) => one.holds(pane, x, y)) : undefined;
      const from = handle?.along(this.stage.ray(pane, x, y).ray);
      this.gesture = handle && from ? { kind: "drag", handle, from, pane, delta: [0, 0, 0] } : { kind: "press", x, y, pane };
      if (this.stage.tool === "draw") this.draw(pane, x, y, event, "down");
      const guide = this.stage.tool === "guide" ? this.stage.guideNow : null;
      const held = guide && guideHandleAt(pane, x, y, guide);
      if (held) this.gesture = { kind: "guide", name: held.name, from: held.at, to: held.at, pane };
    }
    event.preventDefault();
  }

  private move(event: PointerEvent): void {
    const { x, y } = this.at(event);
    const dx = x - this.last.x;
    const dy = y - this.last.y;
    const { gesture } = this;
    if (!gesture) return this.hover(x, y, event);
    const pane = this.pane();
    if (!pane) return;
    if (gesture.kind === "orbit") {
      this.stage.setViewpoint(this.paneId, orbit(pane.viewpoint, gesture.about, -dx * 0.006, -dy * 0.006));
    } else if (gesture.kind === "press" && (this.stage.tool === "select" || this.stage.tool === "guide") && Math.hypot(x - gesture.x, y - gesture.y) > CLICK_PX) {
      this.gesture = { ...gesture, kind: "box" };
    } else if (gesture.kind === "press" && this.stage.tool === "draw") {
      this.draw(gesture.pane, x, y, event, "drag");
    } else if (gesture.kind === "box") {
      this.stage.setBox({ pane: gesture.pane.pane.id, from: { x: gesture.x, y: gesture.y }, to: { x, y }, touching: event.shiftKey });
    } else if (gesture.kind === "guide") {
      const to = dragged(gesture.pane, this.stage.ray(gesture.pane, x, y).ray, gesture.from);
      if (to) {
        gesture.to = to;
        this.stage.events.onGuide(gesture.name, to, "move");
      }
    } else if (gesture.kind === "pan") this.shift(pane, dx, dy, gesture.depth);
    else if (gesture.kind === "drag") this.drag(gesture, x, y, event.ctrlKey);
    this.last = { x, y };
  }

  private hover(x: number, y: number, event: PointerEvent): void {
    const pane = this.stage.paneAt(x);
    if (!pane) return;
    const handle = this.stage.tool === "select" ? this.stage.activeHandles.find((one) => one.holds(pane, x, y)) : undefined;
    const id = handle ? null : this.stage.thingAt(pane, x, y);
    this.stage.setHover(id, handle?.name ?? null);
    const surface = this.stage.surfaceAt(pane, x, y);
    const { measured } = this.stage;
    if (this.stage.tool === "measure" && surface && measured && !measured.done) this.stage.setMeasure({ ...measured, to: surface.point });
    if (this.stage.tool === "draw") this.draw(pane, x, y, event, "hover");
    if (this.stage.tool === "put") this.stage.events.onPut(this.stage.putPlace(pane, x, y, event.ctrlKey), "hover");
    this.stage.events.onPointer({
      pane: pane.pane.id, id,
      point: surface ? (surface.point.toArray() as Vec3) : null,
      normal: surface ? (surface.normal.toArray() as Vec3) : null,
      away: surface && pane.pane.view === "free" ? surface.distance : null,
    });
  }

  private drag(gesture: Extract<Gesture, { kind: "drag" }>, x: number, y: number, free: boolean): void {
    const to = gesture.handle.along(this.stage.ray(gesture.pane, x, y).ray);
    if (!to) return;
    const raw = to.sub(gesture.from);
    const step = (value: number) => (free ? value : Math.round(value / SNAP_M) * SNAP_M);
    gesture.delta = [step(raw.x), step(raw.y), step(raw.z)];
    this.stage.events.onDrag(gesture.delta, "move", gesture.handle.name);
  }

  private up(event: PointerEvent): void {
    const { gesture } = this;
    this.gesture = null;
    if (gesture?.kind === "drag") {
      this.stage.events.onDrag(gesture.delta, gesture.delta.some((part) => part !== 0) ? "end" : "cancel", gesture.handle.name);
    } else if (gesture?.kind === "box") {
      const { x, y } = this.at(event);
      const ids = this.stage.inBox(gesture.pane, { x: gesture.x, y: gesture.y }, { x, y }, event.shiftKey);
      this.stage.setBox(null);
      this.stage.events.onSelect(ids, event.ctrlKey);
    } else if (gesture?.kind === "guide") {
      this.stage.events.onGuide(gesture.name, gesture.to, "end");
    } else if (gesture?.kind === "press") {
      const { x, y } = this.at(event);
      if (this.stage.tool === "draw") this.draw(gesture.pane, x, y, event, "up");
      if (Math.hypot(x - gesture.x, y - gesture.y) > CLICK_PX) return;
      if (this.stage.tool === "draw") this.draw(gesture.pane, x, y, event, "click");
      else if (this.stage.tool === "put") this.stage.events.onPut(this.stage.putPlace(gesture.pane, x, y, event.ctrlKey), "click");
      else if (this.stage.tool === "aim") {
        const surface = this.stage.surfaceAt(gesture.pane, x, y);
        if (surface) this.stage.events.onAim(surface.point.toArray() as Vec3);
      } else if (this.stage.tool === "measure") {
        const surface = this.stage.surfaceAt(gesture.pane, x, y);
        const { measured } = this.stage;
        if (!surface) return;
        const begun = measured && !measured.done;
        this.stage.setMeasure(begun ? { from: measured.from, to: surface.point, done: true } : { from: surface.point, to: surface.point, done: false });
      } else {
        const id = this.stage.thingAt(gesture.pane, x, y);
        this.stage.events.onSelect(id ? [id] : [], event.shiftKey || event.ctrlKey);
      }
    }
  }

  /** The place under the pointer on the pane's own plane through the datums, as the drawing tool takes it. */
  private draw(pane: OverlayPane, x: number, y: number, event: PointerEvent, phase: DrawPhase): void {
    const name = planeOf(pane.pane.view);
    const plane = new THREE.Plane(NORMALS[name], 0);
    const here = this.stage.ray(pane, x, y).ray.intersectPlane(plane, new THREE.Vector3());
    const beside = this.stage.ray(pane, x + SNAP_PX, y).ray.intersectPlane(plane, new THREE.Vector3());
    if (!here || !beside) return;
    const at: [number, number] = name === "plan" ? [here.x, here.y] : name === "front" ? [here.x, here.z] : [here.y, here.z];
    this.stage.events.onDraw({ plane: name, at, reach: here.distanceTo(beside), locked: event.shiftKey, free: event.ctrlKey }, phase);
  }

  private cancel(): void {
    if (this.gesture?.kind === "drag") this.stage.events.onDrag([0, 0, 0], "cancel", this.gesture.handle.name);
    if (this.gesture?.kind === "box") this.stage.setBox(null);
    this.gesture = null;
  }

  private shift(pane: OverlayPane, dx: number, dy: number, depth: number): void {
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
    if (trackpad && event.altKey && pane.pane.view === "free") {
      this.stage.setViewpoint(pane.pane.id, orbit(pane.viewpoint, target, event.deltaX * 0.004, event.deltaY * 0.004));
    } else if (trackpad) {
      this.shift(pane, -event.deltaX, -event.deltaY, target.distanceTo(pane.viewpoint.eye));
    } else {
      const strength = event.ctrlKey ? 0.01 : 0.0015;
      this.stage.setViewpoint(pane.pane.id, zoom(pane.viewpoint, target, Math.exp(event.deltaY * strength)));
    }
  }
}
