import { putPlace } from "./picking";
import { type At, StageTool } from "./tool";

/** A fixture in hand: its ghost follows the pointer, a click puts it. */
export class PutTool extends StageTool {
  override hover(at: At): null {
    this.say(at, "hover");
    return null;
  }

  override click(at: At): void {
    this.say(at, "click");
  }

  private say({ pane, x, y, ctrl }: At, phase: "hover" | "click"): void {
    this.stage.events.onPut(putPlace(this.stage, pane, x, y, ctrl), phase);
  }
}
