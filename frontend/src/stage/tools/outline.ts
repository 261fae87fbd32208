import * as THREE from "three";
import type { DrawPhase, DrawPlane, Drawn, ViewName } from "../data";
import type { ShownPane } from "../view/panes";
import { sampledLines } from "./draw";
import { project, type Sheet } from "./sheet";
import { type At, type Hold, StageTool } from "./tool";

const CLICK_PX = 4;
const SNAP_PX = 8;
const NORMALS: Record<DrawPlane, THREE.Vector3> = { plan: new THREE.Vector3(0, 0, 1), front: new THREE.Vector3(0, 1, 0), side: new THREE.Vector3(1, 0, 0) };

/** Where an outline lies that is drawn in a view. */
function planeOf(view: ViewName): DrawPlane {
  if (view === "front" || view === "back") return "front";
  return view === "plan" || view === "free" ? "plan" : "side";
}

/** A place of an outline in the show. */
function placed(plane: DrawPlane, a: number, b: number): THREE.Vector3 {
  if (plane === "plan") return new THREE.Vector3(a, b, 0);
  return plane === "front" ? new THREE.Vector3(a, 0, b) : new THREE.Vector3(0, a, b);
}

/** Drawing an outline by clicks, and dragging its corners: the pointer on the pane's own plane through the datums. */
export class OutlineTool extends StageTool {
  private drawn: Drawn | null = null;

  /** What is drawn so far, or none. */
  show(drawn: Drawn | null): void {
    this.drawn = drawn;
    this.stage.touchOverlay();
  }

  override hover(at: At): null {
    this.say(at, "hover");
    return null;
  }

  override press(from: At): Hold {
    this.say(from, "down");
    return {
      move: (at) => this.say(at, "drag"),
      end: (at) => {
        this.say(at, "up");
        if (Math.hypot(at.x - from.x, at.y - from.y) <= CLICK_PX) this.say(at, "click");
      },
    };
  }

  private say({ pane, x, y, shift, ctrl }: At, phase: DrawPhase): void {
    const name = planeOf(pane.pane.view);
    const plane = new THREE.Plane(NORMALS[name], 0);
    const here = this.stage.ray(pane, x, y).ray.intersectPlane(plane, new THREE.Vector3());
    const beside = this.stage.ray(pane, x + SNAP_PX, y).ray.intersectPlane(plane, new THREE.Vector3());
    if (!here || !beside) return;
    const at: [number, number] = name === "plan" ? [here.x, here.y] : name === "front" ? [here.x, here.z] : [here.y, here.z];
    this.stage.events.onDraw({ plane: name, at, reach: here.distanceTo(beside), locked: shift, free: ctrl }, phase);
  }

  /** Its lines with their lengths, its corners, and the next line to the pointer. */
  override draw(sheet: Sheet, pane: ShownPane): void {
    const { drawn } = this;
    if (!drawn) return;
    const { pen, theme } = sheet;
    const points = drawn.points ?? drawn.corners;
    const at = (a: number, b: number) => project(pane, placed(drawn.plane, a, b));
    for (const line of sampledLines(drawn.corners, drawn.closed)) this.drawLine(sheet, pane, drawn, line);
    for (const [x, y] of points) {
      const corner = at(x, y);
      if (!corner) continue;
      pen.fillStyle = theme.active;
      pen.fillRect(corner.x - 3, corner.y - 3, 6, 6);
    }
    if (!drawn.next) return;
    const [x, y] = drawn.next;
    const last = points.at(-1);
    if (last && !drawn.closed) {
      sheet.line(pane, placed(drawn.plane, last[0], last[1]), placed(drawn.plane, x, y), theme.active, [4, 3], 1.2);
      sheet.length(at((x + last[0]) / 2, (y + last[1]) / 2), Math.hypot(x - last[0], y - last[1]), theme.active);
    }
    const tip = at(x, y);
    if (!tip) return;
    pen.strokeStyle = theme.selected;
    pen.lineWidth = 1.4;
    pen.beginPath();
    pen.arc(tip.x, tip.y, 5, 0, 2 * Math.PI);
    pen.stroke();
    if (drawn.why) sheet.text(drawn.why, tip.x, tip.y + 15, theme.selected, "center", 10.5);
  }

  private drawLine(sheet: Sheet, pane: ShownPane, drawn: Drawn, line: readonly [number, number][]): void {
    const { theme } = sheet;
    for (let i = 0; i + 1 < line.length; i++) {
      const [a, b] = [line[i] as [number, number], line[i + 1] as [number, number]];
      sheet.line(pane, placed(drawn.plane, ...a), placed(drawn.plane, ...b), theme.active, [], 1.6);
    }
    const [first, last] = [line[0], line.at(-1)];
    // A curve through what was clicked has no length of its own between two chords.
    if (!first || !last || (drawn.points?.length ?? 0) < drawn.corners.length - 1) return;
    const middle = project(pane, placed(drawn.plane, (first[0] + last[0]) / 2, (first[1] + last[1]) / 2));
    sheet.length(middle, Math.hypot(last[0] - first[0], last[1] - first[1]), theme.dim);
  }
}
