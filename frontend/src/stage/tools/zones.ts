import * as THREE from "three";
import type { LaserZone, Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import { project, type Sheet } from "./sheet";

const CROSS_PX = 6;
const at = (p: Vec3) => new THREE.Vector3(...p);

/** The zones of lasers: from the lens to the corners of where they land, the edge there, and what they reach. What is
 * wrong is drawn broken and has crosses, not another colour alone. */
export function drawZones(sheet: Sheet, pane: ShownPane, zones: readonly LaserZone[]): void {
  const { theme } = sheet;
  for (const zone of zones) {
    const colour = zone.over ? theme.attention : zone.chosen ? theme.selected : theme.dim;
    const dash = zone.over ? [5, 3] : [];
    const width = zone.chosen ? 1.6 : 1;
    const lens = at(zone.place);
    zone.edge.forEach((p, i) => {
      if (i % zone.corner === 0) sheet.line(pane, lens, at(p), colour, dash, width * 0.7);
      const next = zone.edge[(i + 1) % zone.edge.length];
      if (next && zone.edge.length > 1) sheet.line(pane, at(p), at(next), colour, dash, width);
    });
    for (const p of zone.crossings) {
      const spot = project(pane, at(p));
      if (!spot) continue;
      const { pen } = sheet;
      pen.strokeStyle = theme.attention;
      pen.lineWidth = 2;
      pen.beginPath();
      for (const [dx, dy] of [[1, 1], [1, -1]] as const) {
        pen.moveTo(spot.x - dx * CROSS_PX, spot.y - dy * CROSS_PX);
        pen.lineTo(spot.x + dx * CROSS_PX, spot.y + dy * CROSS_PX);
      }
      pen.stroke();
    }
    const name = project(pane, lens);
    // Plans have the numbers of all that hangs.
    if (name && zone.chosen && pane.pane.view === "free") sheet.text(zone.label, name.x, name.y - 16, colour, "center", 11);
  }
}
