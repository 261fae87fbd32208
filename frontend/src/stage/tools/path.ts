import * as THREE from "three";
import type { Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import { project, type Sheet } from "./sheet";
import { type At, TellingTool } from "./tool";

/** A way over the stage, drawn place by place on what is level. */
export class PathTool extends TellingTool {
  private places: Vec3[] = [];
  private next: Vec3 | null = null;

  show(places: Vec3[], next: Vec3 | null): void {
    [this.places, this.next] = [places, next];
    this.stage.touchOverlay();
  }

  protected override tell({ pane, x, y }: At, phase: "hover" | "click"): void {
    const surface = this.stage.surfaceAt(pane, x, y);
    const place = surface && { point: surface.point.toArray() as Vec3, normal: surface.normal.toArray() as Vec3, foot: null, thing: surface.id, focus: null };
    this.stage.events.onPath(place, phase);
  }

  override leave(): void {
    this.show([], null);
  }

  override draw(sheet: Sheet, pane: ShownPane): void {
    const { pen, theme } = sheet;
    const all = this.next ? [...this.places, this.next] : this.places;
    for (let i = 1; i < all.length; i++) sheet.line(pane, new THREE.Vector3(...(all[i - 1] as Vec3)), new THREE.Vector3(...(all[i] as Vec3)), theme.active, i === this.places.length ? [5, 4] : [], 1.6);
    pen.fillStyle = theme.active;
    for (const place of all) {
      const spot = project(pane, new THREE.Vector3(...place));
      if (!spot) continue;
      pen.beginPath();
      pen.arc(spot.x, spot.y, 3.5, 0, 2 * Math.PI);
      pen.fill();
    }
  }
}
