import * as THREE from "three";
import type { LabelChoice, LabelPart, Mounted, RailLine, StageLabels, Vec3 } from "../data";
import type { BeamState } from "../scene/beams";
import type { Landings } from "../scene/landings";
import type { ShownPane } from "../view/panes";
import { HEIGHT, PAD, type Label, type Obstacle, type Placed, placeLabels, thinned } from "./placing";
import { project, type StageTheme } from "./sheet";

const LANDINGS_MOST = 400;
/** No label is smaller than this; where they come too close, they say less instead. */
export const LEAST_PX = 10;
/** From so many pixels a metre on, fixtures without a label of their own have their numbers in drawn views. */
const NUMBERS_FROM = 14;
const LEVELS = 3;

/** Numbers on bodies and where beams land: each text is drawn once, then copied, so that hundreds cost little. */
export class Labels {
  private readonly sprites = new Map<string, HTMLCanvasElement>();
  private readonly widths = new Map<string, number>();
  /** How many were drawn last. */
  shown = 0;

  constructor(
    private readonly theme: StageTheme,
    private readonly pen: CanvasRenderingContext2D,
  ) {}

  private width(text: string): number {
    let width = this.widths.get(text);
    if (width === undefined) {
      this.pen.font = `11px ${this.theme.numbers}`;
      width = this.pen.measureText(text).width;
      this.widths.set(text, width);
    }
    return width;
  }

  private sprite(label: Placed, ratio: number): HTMLCanvasElement {
    const key = `${label.text}/${label.tone}/${ratio}`;
    let made = this.sprites.get(key);
    if (made) return made;
    if (this.sprites.size > 4000) this.sprites.clear();
    made = document.createElement("canvas");
    made.width = Math.ceil(label.width * ratio);
    made.height = Math.ceil(HEIGHT * ratio);
    const pen = made.getContext("2d") as CanvasRenderingContext2D;
    pen.scale(ratio, ratio);
    pen.globalAlpha = 0.82;
    pen.fillStyle = this.theme.ground;
    pen.beginPath();
    // On a body an upright plate, on the floor a rounded one.
    pen.roundRect(0, 0, label.width, HEIGHT, label.tone === "landing" ? HEIGHT / 2 : 2);
    pen.fill();
    pen.globalAlpha = 1;
    pen.font = `11px ${this.theme.numbers}`;
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.fillStyle = label.tone === "chosen" ? this.theme.selected : label.tone === "landing" ? this.theme.active : this.theme.text;
    pen.fillText(label.text, label.width / 2, HEIGHT / 2 + 0.5);
    this.sprites.set(key, made);
    return made;
  }

  /** The labels of a pane: the selected ones first, so that they find room. */
  private wanted(pane: ShownPane, choice: LabelChoice, mounted: Mounted[], state: BeamState, landings: Landings, selected: ReadonlySet<string>): Label[] {
    const labels: Label[] = [];
    const inside = (at: { x: number; y: number } | null) => at !== null && at.x > pane.left && at.x < pane.left + pane.width && at.y > pane.top && at.y < pane.top + pane.height;
    if (choice.bodies) {
      for (const fixture of mounted) {
        // Whoever has a label of a style here has its number already.
        if (this.styles.some((style) => style.views.includes(pane.pane.view) && style.texts.has(fixture.id))) continue;
        const place = state.placeOf(fixture.id) ?? fixture;
        const at = project(pane, new THREE.Vector3(...place.position));
        if (at && inside(at)) labels.push({ text: fixture.label, x: at.x, y: at.y, tone: selected.has(fixture.id) ? "chosen" : "body" });
      }
    }
    if (choice.landings) {
      const rows = landings.lit(pane.pane.picture, LANDINGS_MOST);
      landings.update(rows, pane.pane.picture);
      const byId = new Map(mounted.map((one) => [one.id, one]));
      for (const row of rows) {
        const id = state.idOf(row);
        const fixture = id === undefined ? undefined : byId.get(id);
        // A batten's cells land side by side: its number stands where the first one does.
        if (!fixture || state.rowOf(fixture.id) !== row) continue;
        const hit = landings.of(row, pane.pane.picture)?.[0];
        const at = hit ? project(pane, hit.point) : null;
        if (at && inside(at)) labels.push({ text: fixture.label, x: at.x, y: at.y + 10, tone: selected.has(fixture.id) ? "chosen" : "landing" });
      }
    }
    return labels.sort((a, b) => Number(b.tone === "chosen") - Number(a.tone === "chosen"));
  }

  draw(pane: ShownPane, choice: LabelChoice, mounted: Mounted[], state: BeamState, landings: Landings, selected: ReadonlySet<string>, ratio: number): void {
    if (pane.pane.labels === false || (!choice.bodies && !choice.landings)) return;
    const placed = placeLabels(this.wanted(pane, choice, mounted, state, landings, selected), (label) => this.width(label.text), { taken: this.written });
    const { pen } = this;
    pen.strokeStyle = this.theme.faint;
    pen.lineWidth = 1;
    pen.beginPath();
    for (const label of placed) {
      if (!label.aside) continue;
      pen.moveTo(label.x, label.y);
      pen.lineTo(Math.min(Math.max(label.x, label.left), label.left + label.width), label.top + HEIGHT / 2);
    }
    pen.stroke();
    for (const label of placed) pen.drawImage(this.sprite(label, ratio), Math.round(label.left), Math.round(label.top), label.width, HEIGHT);
    this.shown += placed.length;
  }

  // Label styles

  styles: readonly StageLabels[] = [];
  /** What has been written into the pane that is being drawn. */
  private written: readonly Obstacle[] = [];
  private readonly memory = new Map<string, number>();
  /** How many labels of styles were drawn last, and in which panes. */
  styled = 0;
  /** How many numbers, of those that no style labels. */
  plain = 0;

  /** The bodies and rails of a pane as boxes that labels keep off. */
  obstacles(pane: ShownPane, mounted: Mounted[], state: BeamState, rails: Readonly<Record<string, readonly RailLine[]>>): Obstacle[] {
    const found: Obstacle[] = [];
    const drawn = pane.pane.view !== "free";
    const r = drawn ? Math.max(4, (0.19 * pane.height) / pane.viewpoint.height) : 9;
    for (const fixture of mounted) {
      const place = state.placeOf(fixture.id) ?? fixture;
      const at = project(pane, new THREE.Vector3(...place.position));
      if (at) found.push({ left: at.x - r, top: at.y - r, width: 2 * r, height: 2 * r });
    }
    for (const lines of Object.values(rails)) {
      for (const line of lines) {
        for (let i = 0; i + 1 < line.points.length; i++) {
          const [a, b] = [project(pane, new THREE.Vector3(...(line.points[i] as Vec3))), project(pane, new THREE.Vector3(...(line.points[i + 1] as Vec3)))];
          if (!a || !b || Math.max(a.x, b.x) < pane.left || Math.min(a.x, b.x) > pane.left + pane.width) continue;
          const steps = Math.min(Math.max(1, Math.ceil(Math.hypot(b.x - a.x, b.y - a.y) / RAIL_STEP_PX)), 200);
          for (let k = 0; k <= steps; k++) {
            found.push({ left: a.x + ((b.x - a.x) * k) / steps - 1.5, top: a.y + ((b.y - a.y) * k) / steps - 1.5, width: 3, height: 3 });
          }
        }
      }
    }
    return found;
  }

  /** The styles of a pane's view; in drawn ones also the numbers of those that no style labels. */
  private stylesOf(pane: ShownPane, mounted: Mounted[], numbered: boolean): StageLabels[] {
    const { view } = pane.pane;
    const styles = this.styles.filter((style) => style.views.includes(view));
    if (view === "free" || numbered || pane.height / pane.viewpoint.height < NUMBERS_FROM) return styles;
    const plain = mounted.filter(({ id }) => !styles.some((style) => style.texts.has(id)));
    const texts = new Map(plain.map(({ id, label }): [string, LabelPart[]] => [id, [{ field: "number", text: label, shape: "plain" }]]));
    return plain.length ? [...styles, { views: [view], sizeMm: 0, sizePx: LEAST_PX + 1, leader: false, texts }] : styles;
  }

  /**
   * The labels of the styles that are shown in a pane's view: off bodies, rails and each other, with leaders to the clamps.
   * Where they come too close they say less: number and address, then the number; what then finds no room is left out.
   */
  drawStyles(pane: ShownPane, mounted: Mounted[], state: BeamState, selected: ReadonlySet<string>, rails: Readonly<Record<string, readonly RailLine[]>>, numbered: boolean, written: readonly Obstacle[] = []): void {
    const styles = pane.pane.labels === false ? [] : this.stylesOf(pane, mounted, numbered);
    this.written = written;
    if (!styles.length) return;
    const obstacles = this.obstacles(pane, mounted, state, rails);
    const done: Obstacle[] = [];
    for (const [n, style] of styles.entries()) {
      const size = this.sizeOf(pane, style);
      let placed: ReturnType<Labels["placed"]> = [];
      for (let level = 0; level < LEVELS; level++) {
        const wanted = this.wantedOf(pane, style, n, size, level, mounted, state, selected);
        placed = this.placed(wanted, size, obstacles, [...written, ...done]);
        if (placed.length === wanted.length) break;
      }
      for (const label of placed) {
        this.whole(label, style, size);
        // What has been placed stands in the way of the next style.
        done.push({ left: label.left, top: label.top, width: label.width, height: size * 1.5 });
      }
      if (style.sizeMm) this.styled += placed.length;
      else this.plain += placed.length;
    }
    this.written = [...written, ...done];
  }

  private sizeOf(pane: ShownPane, style: StageLabels): number {
    const size = pane.pane.view === "free" || !style.sizeMm ? style.sizePx : (style.sizeMm / 1000) * (pane.height / pane.viewpoint.height);
    return Math.max(size, LEAST_PX);
  }

  private wantedOf(pane: ShownPane, style: StageLabels, n: number, size: number, level: number, mounted: Mounted[], state: BeamState, selected: ReadonlySet<string>) {
    const { pen, theme } = this;
    pen.font = `${size}px ${theme.numbers}`;
    const gap = pane.pane.view === "free" ? 12 : Math.max(6, (0.24 * pane.height) / pane.viewpoint.height);
    const wanted = mounted.flatMap((fixture) => {
      const whole = style.texts.get(fixture.id);
      const place = state.placeOf(fixture.id) ?? fixture;
      const at = whole ? project(pane, new THREE.Vector3(...place.position)) : null;
      if (!whole || !at || at.x < pane.left || at.x > pane.left + pane.width || at.y < pane.top || at.y > pane.top + pane.height) return [];
      const parts = thinned(whole, level);
      const widths = parts.map(({ text }) => Math.max(pen.measureText(text).width + 2 * size * 0.36, size * 1.5));
      return [{ text: "", x: at.x, y: at.y, tone: selected.has(fixture.id) ? ("chosen" as const) : ("body" as const), key: `${pane.pane.id}/${n}/${fixture.id}`, gap, parts, widths }];
    });
    // What is selected finds room first.
    return wanted.sort((a, b) => Number(b.tone === "chosen") - Number(a.tone === "chosen"));
  }

  private placed(wanted: ReturnType<Labels["wantedOf"]>, size: number, obstacles: readonly Obstacle[], taken: readonly Obstacle[]) {
    return placeLabels(wanted, (label) => label.widths.reduce((sum, one) => sum + one, 0) - 2 * PAD, { height: size * 1.5, obstacles, taken, memory: this.memory });
  }

  private whole(label: ReturnType<Labels["placed"]>[number], style: StageLabels, size: number): void {
    const height = size * 1.5;
    if (style.leader) this.leader(label, height);
    let x = label.left;
    for (const [i, part] of label.parts.entries()) {
      const width = label.widths[i] as number;
      this.part(part, x, label.top, width, height, size, label.tone === "chosen" ? this.theme.selected : this.theme.text);
      x += width;
    }
  }

  private leader(label: Placed, height: number): void {
    const { pen } = this;
    pen.strokeStyle = this.theme.faint;
    pen.lineWidth = 1;
    pen.beginPath();
    pen.moveTo(label.x, label.y);
    pen.lineTo(Math.min(Math.max(label.x, label.left), label.left + label.width), label.top > label.y ? label.top : label.top + height < label.y ? label.top + height : label.top + height / 2);
    pen.stroke();
  }

  private part({ text, shape }: { text: string; shape: string }, x: number, y: number, width: number, height: number, size: number, colour: string): void {
    const { pen, theme } = this;
    shapePath(pen, shape, x + 1, y + 1, width - 2, height - 2);
    pen.fillStyle = theme.ground;
    pen.globalAlpha = 0.78;
    pen.fill();
    pen.globalAlpha = 1;
    if (shape !== "plain") {
      pen.strokeStyle = colour;
      pen.lineWidth = Math.max(size / 14, 0.8);
      if (shape === "bar") {
        pen.beginPath();
        pen.moveTo(x + 2, y + height - 1.5);
        pen.lineTo(x + width - 2, y + height - 1.5);
      }
      pen.stroke();
    }
    pen.font = `${size}px ${theme.numbers}`;
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.fillStyle = colour;
    pen.fillText(text, x + width / 2, y + height / 2 + size * 0.06);
  }
}

const RAIL_STEP_PX = 16;

/** The outline of a label's shape in a box. */
export function shapePath(pen: CanvasRenderingContext2D, shape: string, x: number, y: number, width: number, height: number): void {
  const cut = Math.min(height / 2, width / 3);
  pen.beginPath();
  if (shape === "circle") pen.roundRect(x, y, width, height, height / 2);
  else if (shape === "hexagon" || shape === "lozenge") {
    const [dx, shoulder] = shape === "hexagon" ? [cut / 2, height] : [cut, 0];
    const points: [number, number][] = shoulder
      ? [[x + dx, y], [x + width - dx, y], [x + width, y + height / 2], [x + width - dx, y + height], [x + dx, y + height], [x, y + height / 2]]
      : [[x + width / 2, y - height * 0.12], [x + width + dx * 0.3, y + height / 2], [x + width / 2, y + height * 1.12], [x - dx * 0.3, y + height / 2]];
    for (const [k, [px, py]] of points.entries()) pen[k ? "lineTo" : "moveTo"](px, py);
    pen.closePath();
  } else pen.rect(x, y, width, height);
}
