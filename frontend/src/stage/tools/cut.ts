import * as THREE from "three";
import type { Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import type { Sheet } from "./sheet";
import { type At, TellingTool, type ToolStage } from "./tool";

type Tell = (place: { point: Vec3; thing: string } | null, phase: "hover" | "click") => void;

/** A place on the set under the pointer, and the edge there that a click means: blades are laid along it, gates made sharp. */
export class CutTool extends TellingTool {
  private edge: readonly [Vec3, Vec3] | null = null;

  constructor(
    stage: ToolStage,
    private readonly says: Tell,
  ) {
    super(stage);
  }

  show(edge: readonly [Vec3, Vec3] | null): void {
    this.edge = edge;
    this.stage.touchOverlay();
  }

  protected override tell({ pane, x, y }: At, phase: "hover" | "click"): void {
    const surface = this.stage.surfaceAt(pane, x, y);
    this.says(surface && { point: surface.point.toArray() as Vec3, thing: surface.id }, phase);
  }

  override leave(): void {
    this.show(null);
  }

  override draw(sheet: Sheet, pane: ShownPane): void {
    if (this.edge) sheet.line(pane, new THREE.Vector3(...this.edge[0]), new THREE.Vector3(...this.edge[1]), sheet.theme.active, [], 2.4);
  }
}
