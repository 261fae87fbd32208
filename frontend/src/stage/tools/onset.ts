import type * as THREE from "three";
import type { ShownPane } from "../view/panes";
import { project, type Sheet } from "./sheet";

/** Where it falls so much further on, as a share of its way, it has passed an edge of the set. */
const STEP_OFF = 0.12;

/** Light that falls past an edge goes on further behind: the line is broken there. */
export function onSetLine(sheet: Sheet, pane: ShownPane, from: THREE.Vector3, points: readonly (THREE.Vector3 | null)[], colour: string, width: number): void {
  const { pen } = sheet;
  pen.strokeStyle = colour;
  pen.lineWidth = width;
  pen.beginPath();
  let before: number | null = null;
  for (const point of points) {
    const spot = point && project(pane, point);
    const far = point?.distanceTo(from) ?? 0;
    const on = before !== null && Math.abs(far - before) < STEP_OFF * Math.min(far, before);
    if (spot) pen[on ? "lineTo" : "moveTo"](spot.x, spot.y);
    before = spot ? far : null;
  }
  pen.stroke();
}
