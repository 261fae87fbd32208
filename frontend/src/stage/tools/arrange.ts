import type { GuideShape } from "../data";
import type { ShownPane } from "../view/panes";
import { dragged, drawGuide, guideHandleAt } from "./guide";
import type { SelectTool } from "./select";
import type { Sheet } from "./sheet";
import { type At, type Hold, StageTool, type ToolStage } from "./tool";

/** Arranging on a guide: it is dragged by its handles; everywhere else one selects. */
export class ArrangeTool extends StageTool {
  shape: GuideShape | null = null;

  constructor(
    stage: ToolStage,
    private readonly selecting: SelectTool,
  ) {
    super(stage);
  }

  /** The guide that is drawn, or none. */
  show(shape: GuideShape | null): void {
    this.shape = shape;
    this.stage.touchOverlay();
  }

  override hover({ pane, x, y }: At): string | null {
    return (this.shape && guideHandleAt(pane, x, y, this.shape)?.name) ?? null;
  }

  override press({ pane, x, y }: At): Hold | null {
    const held = this.shape && guideHandleAt(pane, x, y, this.shape);
    if (!held) return null;
    let to = held.at;
    return {
      move: (at) => {
        const place = dragged(pane, this.stage.ray(pane, at.x, at.y).ray, held.at);
        if (!place) return;
        to = place;
        this.stage.events.onGuide(held.name, to, "move");
      },
      end: () => this.stage.events.onGuide(held.name, to, "end"),
    };
  }

  override pull(from: At): Hold | null {
    return this.selecting.pull(from);
  }

  override click(at: At): void {
    this.selecting.click(at);
  }

  override draw({ pen, theme }: Sheet, pane: ShownPane, hot: string | null): void {
    if (this.shape) drawGuide(pen, pane, this.shape, theme, hot);
  }
}
