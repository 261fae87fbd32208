import type * as THREE from "three";
import type { ShownPane } from "../view/panes";
import { project, type Sheet } from "./sheet";
import { type At, StageTool } from "./tool";

/** A length between two places; `done` when both are taken. */
interface Measure {
  from: THREE.Vector3;
  to: THREE.Vector3;
  done: boolean;
}

/** Two clicks measure; the next one begins anew. */
export class MeasureTool extends StageTool {
  measured: Measure | null = null;

  private set(measure: Measure | null): void {
    this.measured = measure;
    this.stage.events.onMeasured(measure ? measure.from.distanceTo(measure.to) : null);
    this.stage.touchOverlay();
  }

  override hover({ pane, x, y }: At): null {
    const { measured } = this;
    const surface = measured && !measured.done ? this.stage.surfaceAt(pane, x, y) : null;
    if (measured && surface) this.set({ ...measured, to: surface.point });
    return null;
  }

  override click({ pane, x, y }: At): void {
    const { measured } = this;
    const surface = this.stage.surfaceAt(pane, x, y);
    if (!surface) return;
    this.set(measured && !measured.done ? { from: measured.from, to: surface.point, done: true } : { from: surface.point, to: surface.point, done: false });
  }

  override leave(): void {
    this.set(null);
  }

  override draw(sheet: Sheet, pane: ShownPane): void {
    if (!this.measured) return;
    const { from, to } = this.measured;
    const [a, b] = [project(pane, from), project(pane, to)];
    if (!a || !b) return;
    const { pen, theme } = sheet;
    sheet.line(pane, from, to, theme.active, [], 1.6);
    pen.fillStyle = theme.active;
    for (const end of [a, b]) {
      pen.beginPath();
      pen.arc(end.x, end.y, 3.5, 0, 2 * Math.PI);
      pen.fill();
    }
    const way = to.clone().sub(from);
    const [x, y] = [(a.x + b.x) / 2, (a.y + b.y) / 2];
    sheet.text(sheet.measures.said(way.length()), x, y - 12, theme.active, "center", 12);
    sheet.text(`level ${sheet.measures.said(Math.hypot(way.x, way.y))} · up ${sheet.measures.said(way.z)}`, x, y + 12, theme.dim, "center", 10);
  }
}
