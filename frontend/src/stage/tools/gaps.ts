import * as THREE from "three";
import type { Solid } from "../data";
import type { ShownPane } from "../view/panes";
import { project, type Sheet } from "./sheet";

/** The doors and windows of walls in plan, as a plan has them: a door is a gap, a window a gap with its pane in it. */
export function drawGaps(sheet: Sheet, pane: ShownPane, solids: readonly Solid[]): void {
  const { pen, theme } = sheet;
  for (const { position, gaps } of solids) {
    for (const { ring, door } of gaps) {
      const spots = ring.map(([x, y]) => project(pane, new THREE.Vector3(x, y, position[2])));
      if (spots.some((one) => one === null)) continue;
      pen.beginPath();
      for (const [i, at] of spots.entries()) if (at) pen[i ? "lineTo" : "moveTo"](at.x, at.y);
      pen.fillStyle = pen.strokeStyle = theme.ground;
      // The wall's own lines are drawn wider than one pixel.
      pen.lineWidth = 4;
      pen.fill();
      pen.stroke();
      pen.strokeStyle = theme.text;
      pen.lineWidth = 1;
      pen.setLineDash(door ? [2, 3] : []);
      pen.stroke();
      pen.setLineDash([]);
    }
  }
}
