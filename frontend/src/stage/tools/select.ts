import type { ShownPane } from "../view/panes";
import { type Handle, handlesOfSelection } from "./handles";
import type { Sheet } from "./sheet";
import { type At, type Hold, StageTool } from "./tool";


/** A box to select by, in CSS pixels of the stage. */
interface SelectBox {
  pane: string;
  from: { x: number; y: number };
  to: { x: number; y: number };
  touching: boolean;
}

/** Selecting by clicks and boxes, and moving what is selected by its handles. */
export class SelectTool extends StageTool {
  override readonly lights = true;
  handles: Handle[] = [];
  private box: SelectBox | null = null;
  private shown = true;

  /** Put the handles where the selection is now. */
  place(selected: ReadonlySet<string>, movable: boolean, tall: boolean, shown: boolean): void {
    this.handles = handlesOfSelection(this.stage, selected, movable, tall);
    this.shown = shown;
  }

  private under({ pane, x, y }: At): Handle | undefined {
    return this.handles.find((one) => one.holds(pane, x, y));
  }

  override hover(at: At): string | null {
    return this.under(at)?.name ?? null;
  }

  override press(at: At): Hold | null {
    const handle = this.under(at);
    const from = handle?.along(this.stage.ray(at.pane, at.x, at.y).ray);
    if (!handle || !from) return null;
    const { events } = this.stage;
    let delta: [number, number, number] = [0, 0, 0];
    return {
      move: (to) => {
        const place = handle.along(this.stage.ray(at.pane, to.x, to.y).ray);
        if (!place) return;
        const raw = place.sub(from);
        const step = (value: number) => (to.ctrl ? value : Math.round(value / this.stage.measures.move) * this.stage.measures.move);
        delta = [step(raw.x), step(raw.y), step(raw.z)];
        events.onDrag(delta, "move", handle.name);
      },
      end: () => events.onDrag(delta, delta.some((part) => part !== 0) ? "end" : "cancel", handle.name),
      cancel: () => events.onDrag([0, 0, 0], "cancel", handle.name),
    };
  }

  /** A thing that can be carried is; from anywhere else a box is drawn. */
  override pull(from: At): Hold {
    const { events } = this.stage;
    const under = this.stage.thingAt(from.pane, from.x, from.y);
    if (under && events.onCarry(under)) return { move: () => undefined, end: () => undefined, cancel: () => void events.onCarry(null) };
    return this.pullBox(from);
  }

  private pullBox(from: At): Hold {
    return {
      move: (to) => this.setBox({ pane: from.pane.pane.id, from, to, touching: to.shift }),
      end: (to) => {
        const ids = this.stage.inBox(from.pane, from, to, to.shift);
        this.setBox(null);
        this.stage.events.onSelect(ids, to.ctrl);
      },
      cancel: () => this.setBox(null),
    };
  }

  override click(at: At): void {
    const id = this.stage.thingAt(at.pane, at.x, at.y);
    this.stage.events.onSelect(id ? [id] : [], at.shift || at.ctrl);
  }

  private setBox(box: SelectBox | null): void {
    this.box = box;
    this.stage.touchOverlay();
  }

  override draw(sheet: Sheet, pane: ShownPane, hot: string | null): void {
    if (this.shown) for (const handle of this.handles) this.drawHandle(sheet, pane, handle, hot);
    if (this.box?.pane === pane.pane.id) this.drawBox(sheet, this.box);
  }

  private drawHandle(sheet: Sheet, pane: ShownPane, handle: Handle, hot: string | null): void {
    const { pen, theme } = sheet;
    const ends = handle.ends(pane);
    if (!ends) return;
    const colour = hot === handle.name ? theme.text : theme.active;
    pen.strokeStyle = pen.fillStyle = colour;
    pen.lineWidth = 2;
    pen.beginPath();
    if (!handle.axis) {
      pen.rect(ends.from.x - 5, ends.from.y - 5, 10, 10);
      pen.stroke();
      return;
    }
    pen.moveTo(ends.from.x, ends.from.y);
    pen.lineTo(ends.to.x, ends.to.y);
    pen.stroke();
    pen.beginPath();
    pen.arc(ends.to.x, ends.to.y, 4.5, 0, 2 * Math.PI);
    pen.fill();
    const [dx, dy] = [ends.to.x - ends.from.x, ends.to.y - ends.from.y];
    const far = Math.hypot(dx, dy) || 1;
    sheet.text(handle.name, ends.to.x + (dx / far) * 16, ends.to.y + (dy / far) * 16, colour);
  }

  private drawBox(sheet: Sheet, { from, to, touching }: SelectBox): void {
    const { pen, theme } = sheet;
    pen.strokeStyle = theme.selected;
    pen.lineWidth = 1.2;
    pen.setLineDash(touching ? [4, 3] : []);
    pen.strokeRect(Math.min(from.x, to.x), Math.min(from.y, to.y), Math.abs(to.x - from.x), Math.abs(to.y - from.y));
    pen.setLineDash([]);
    sheet.text(touching ? "what it touches" : "what is inside", (from.x + to.x) / 2, Math.min(from.y, to.y) - 9, theme.selected, "center", 10.5);
  }
}

