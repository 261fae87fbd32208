import { putPlace } from "./picking";
import { type At, TellingTool } from "./tool";

/** A fixture in hand: its ghost follows the pointer, a click puts it. */
export class PutTool extends TellingTool {
  protected override tell({ pane, x, y, ctrl }: At, phase: "hover" | "click"): void {
    this.stage.events.onPut(putPlace(this.stage, pane, x, y, ctrl), phase);
  }
}
