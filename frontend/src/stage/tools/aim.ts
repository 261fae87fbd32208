import * as THREE from "three";
import type { Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import { project, type Sheet } from "./sheet";
import { type At, StageTool } from "./tool";

/** A click on a surface points the selection there. */
export class AimTool extends StageTool {
  private at: THREE.Vector3 | null = null;

  /** Where they were pointed last. */
  mark(point: Vec3 | null): void {
    this.at = point ? new THREE.Vector3(...point) : null;
    this.stage.touchOverlay();
  }

  override click({ pane, x, y }: At): void {
    const surface = this.stage.surfaceAt(pane, x, y);
    if (surface) this.stage.events.onAim(surface.point.toArray() as Vec3);
  }

  override leave(): void {
    this.mark(null);
  }

  override draw({ pen, theme }: Sheet, pane: ShownPane): void {
    const at = this.at && project(pane, this.at);
    if (!at) return;
    pen.strokeStyle = theme.active;
    pen.lineWidth = 1.6;
    pen.beginPath();
    pen.arc(at.x, at.y, 7, 0, 2 * Math.PI);
    for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
      pen.moveTo(at.x + dx * 4, at.y + dy * 4);
      pen.lineTo(at.x + dx * 12, at.y + dy * 12);
    }
    pen.stroke();
  }
}
