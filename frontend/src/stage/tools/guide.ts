import * as THREE from "three";
import type { GuideShape, Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import { project, type StageTheme } from "./sheet";

const NEAR_PX = 11;
const CHORDS = 72;

export interface GuideHandle {
  name: string;
  at: Vec3;
}

const radians = THREE.MathUtils.degToRad;

/** The places that a guide is dragged by. */
export function handlesOf(guide: GuideShape): GuideHandle[] {
  if (guide.kind === "line") {
    const middle = guide.start.map((value, i) => (value + (guide.end[i] as number)) / 2) as Vec3;
    return [{ name: "start", at: guide.start }, { name: "end", at: guide.end }, { name: "middle", at: middle }];
  }
  const on = (degrees: number, radius: number): Vec3 => [guide.centre[0] + radius * Math.cos(radians(degrees)), guide.centre[1] + radius * Math.sin(radians(degrees)), guide.centre[2]];
  if (guide.kind === "ring") {
    const whole = Math.abs(Math.abs(guide.span) - 360) < 1e-6;
    return [{ name: "middle", at: guide.centre }, { name: "start", at: on(guide.startAngle, guide.radius) }, ...(whole ? [] : [{ name: "end", at: on(guide.startAngle + guide.span, guide.endRadius) }])];
  }
  return [{ name: "middle", at: guide.centre }];
}

/** A guide as points: a line's ends, chords of a ring. */
export function pathOf(guide: GuideShape): Vec3[] {
  if (guide.kind === "line") return [guide.start, guide.end];
  if (guide.kind === "grid") return [];
  return Array.from({ length: CHORDS + 1 }, (_, i): Vec3 => {
    const share = i / CHORDS;
    const [angle, radius] = [radians(guide.startAngle + guide.span * share), guide.radius + (guide.endRadius - guide.radius) * share];
    return [guide.centre[0] + radius * Math.cos(angle), guide.centre[1] + radius * Math.sin(angle), guide.centre[2]];
  });
}

/** The handle of a guide under the pointer. */
export function guideHandleAt(pane: ShownPane, x: number, y: number, guide: GuideShape): GuideHandle | null {
  return handlesOf(guide).find(({ at }) => {
    const here = project(pane, new THREE.Vector3(...at));
    return here !== null && Math.hypot(here.x - x, here.y - y) < NEAR_PX;
  }) ?? null;
}

/** Where a dragged handle comes to be: on the level plane it lies in, or in an elevation on the upright one. */
export function dragged(pane: ShownPane, ray: THREE.Ray, from: Vec3): Vec3 | null {
  const { view } = pane.pane;
  const normal = view === "front" || view === "back" ? new THREE.Vector3(0, 1, 0) : view === "left" || view === "right" || view === "section" ? new THREE.Vector3(1, 0, 0) : new THREE.Vector3(0, 0, 1);
  const hit = ray.intersectPlane(new THREE.Plane().setFromNormalAndCoplanarPoint(normal, new THREE.Vector3(...from)), new THREE.Vector3());
  return hit ? (hit.toArray().map((value) => Math.round(value * 20) / 20) as Vec3) : null;
}

/** Draw a guide with its handles and what it comes to. */
export function drawGuide(pen: CanvasRenderingContext2D, pane: ShownPane, guide: GuideShape, theme: StageTheme, hot: string | null): void {
  pen.strokeStyle = theme.active;
  pen.lineWidth = 1.4;
  pen.setLineDash([6, 4]);
  pen.beginPath();
  let drawing = false;
  for (const point of pathOf(guide)) {
    const at = project(pane, new THREE.Vector3(...point));
    if (!at) drawing = false;
    else if (drawing) pen.lineTo(at.x, at.y);
    else pen.moveTo(at.x, at.y);
    drawing = at !== null;
  }
  pen.stroke();
  pen.setLineDash([]);
  for (const handle of handlesOf(guide)) {
    const at = project(pane, new THREE.Vector3(...handle.at));
    if (!at) continue;
    pen.fillStyle = hot === handle.name ? theme.text : theme.active;
    pen.strokeStyle = theme.ground;
    pen.beginPath();
    if (handle.name === "middle") pen.rect(at.x - 5, at.y - 5, 10, 10);
    else pen.arc(at.x, at.y, 6, 0, 2 * Math.PI);
    pen.fill();
    pen.stroke();
  }
}
