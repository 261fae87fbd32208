import * as THREE from "three";
import type { LabelChoice, Mounted, RailLine, StageLabels, Vec3 } from "../data";
import type { BeamState } from "../scene/beams";
import type { Landings } from "../scene/landings";
import type { ShownPane } from "../view/panes";
import { project, type StageTheme } from "./sheet";

const HEIGHT = 15;
const PAD = 4;
/** Labels that would lie over others step aside to one of these places round their anchor, or are left out. */
const PLACES: readonly [number, number][] = [[0, -1], [0, 1], [1, 0], [-1, 0], [0, -2], [1, -1], [-1, -1], [0, 2]];
const LANDINGS_MOST = 400;

export interface Label {
  text: string;
  x: number;
  y: number;
  tone: "body" | "landing" | "chosen";
  /** Who it is, so that it stays where it stood while the view moves. */
  key?: string;
  /** How far it stands off its anchor, CSS pixels. */
  gap?: number;
}

export interface Placed extends Label {
  left: number;
  top: number;
  width: number;
  /** How far it had to step aside from its anchor: then a leader is drawn. */
  aside: boolean;
}

/** What labels keep off: bodies and the edges of structures, CSS pixels. */
export interface Obstacle {
  left: number;
  top: number;
  width: number;
  height: number;
}

export interface Placing {
  height?: number;
  obstacles?: readonly Obstacle[];
  /** Where each label stood last, by `key`: it stays there as long as there is room. */
  memory?: Map<string, number>;
}

/**
 * Find a free place for each label, the first ones first, none over another; those without room are left out. With
 * obstacles they keep off those too where they can: a place beside its own is better than one over a body.
 */
export function placeLabels<L extends Label>(labels: L[], widthOf: (label: L) => number, { height = HEIGHT, obstacles = [], memory }: Placing = {}): (L & Placed)[] {
  const cell = 64;
  const grid = new Map<string, { box: Obstacle; soft: boolean }[]>();
  const over = (one: Obstacle, box: Obstacle) => one.left < box.left + box.width && box.left < one.left + one.width && one.top < box.top + box.height && box.top < one.top + one.height;
  const cells = (box: Obstacle) => {
    const keys: string[] = [];
    for (let i = Math.floor(box.left / cell); i <= Math.floor((box.left + box.width) / cell); i++) {
      for (let j = Math.floor(box.top / cell); j <= Math.floor((box.top + box.height) / cell); j++) keys.push(`${i},${j}`);
    }
    return keys;
  };
  const put = (box: Obstacle, soft: boolean) => {
    for (const key of cells(box)) {
      const there = grid.get(key);
      if (there) there.push({ box, soft });
      else grid.set(key, [{ box, soft }]);
    }
  };
  for (const obstacle of obstacles) put(obstacle, true);
  const placed: (L & Placed)[] = [];
  for (const label of labels) {
    const width = widthOf(label) + 2 * PAD;
    const last = label.key === undefined ? undefined : memory?.get(label.key);
    const order = last === undefined ? PLACES.map((_, k) => k) : [last, ...PLACES.map((_, k) => k).filter((k) => k !== last)];
    let fallback: { k: number; box: Obstacle; hits: number } | null = null;
    let taken: { k: number; box: Obstacle } | null = null;
    for (const k of order) {
      const [dx, dy] = PLACES[k] as [number, number];
      const box = { left: label.x - width / 2 + dx * (width / 2 + (label.gap ?? 2) + width / 2), top: label.y - height / 2 + dy * (height + (label.gap ?? 1)), width, height };
      const near = new Set(cells(box).flatMap((key) => grid.get(key) ?? []));
      let hits = 0;
      let blocked = false;
      for (const one of near) {
        if (!over(one.box, box)) continue;
        if (one.soft) hits += 1;
        else blocked = true;
      }
      if (blocked) continue;
      if (hits === 0) {
        taken = { k, box };
        break;
      }
      if (!fallback || hits < fallback.hits) fallback = { k, box, hits };
    }
    const chosen = taken ?? fallback;
    if (!chosen) continue;
    if (label.key !== undefined) memory?.set(label.key, chosen.k);
    put(chosen.box, false);
    placed.push({ ...label, left: chosen.box.left, top: chosen.box.top, width, aside: chosen.k > 0 || label.gap !== undefined });
  }
  return placed;
}

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
    if (!choice.bodies && !choice.landings) return;
    const placed = placeLabels(this.wanted(pane, choice, mounted, state, landings, selected), (label) => this.width(label.text));
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
  private readonly memory = new Map<string, number>();
  /** How many labels of styles were drawn last, and in which panes. */
  styled = 0;

  /** Whether a fixture has a label of its own style in a view. */
  labelled(id: string, view: string): boolean {
    return this.styles.some((style) => style.views.includes(view) && style.texts.has(id));
  }

  /** The bodies and rails of a pane as boxes that labels keep off. */
  private obstacles(pane: ShownPane, mounted: Mounted[], state: BeamState, rails: Readonly<Record<string, readonly RailLine[]>>): Obstacle[] {
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

  /** The labels of the styles that are shown in a pane's view: off bodies, rails and each other, with leaders to the clamps. */
  drawStyles(pane: ShownPane, mounted: Mounted[], state: BeamState, selected: ReadonlySet<string>, rails: Readonly<Record<string, readonly RailLine[]>>): void {
    const { view } = pane.pane;
    const styles = this.styles.filter((style) => style.views.includes(view));
    if (!styles.length) return;
    const obstacles = this.obstacles(pane, mounted, state, rails);
    const { pen, theme } = this;
    for (const [n, style] of styles.entries()) {
      const size = view === "free" ? style.sizePx : Math.max((style.sizeMm / 1000) * (pane.height / pane.viewpoint.height), 6);
      // From far away they would be dust.
      if (view !== "free" && (style.sizeMm / 1000) * (pane.height / pane.viewpoint.height) < 4) continue;
      const pad = size * 0.36;
      pen.font = `${size}px ${theme.numbers}`;
      const widths = (parts: readonly { text: string }[]) => parts.map(({ text }) => Math.max(pen.measureText(text).width + 2 * pad, size * 1.5));
      const height = size * 1.5;
      const wanted = mounted.flatMap((fixture) => {
        const parts = style.texts.get(fixture.id);
        const place = state.placeOf(fixture.id) ?? fixture;
        const at = parts ? project(pane, new THREE.Vector3(...place.position)) : null;
        if (!parts || !at || at.x < pane.left || at.x > pane.left + pane.width || at.y < pane.top || at.y > pane.top + pane.height) return [];
        const gap = view === "free" ? 12 : Math.max(6, (0.24 * pane.height) / pane.viewpoint.height);
        return [{ text: "", x: at.x, y: at.y, tone: selected.has(fixture.id) ? ("chosen" as const) : ("body" as const), key: `${pane.pane.id}/${n}/${fixture.id}`, gap, parts, widths: widths(parts) }];
      });
      const placed = placeLabels(wanted, (label) => label.widths.reduce((sum, one) => sum + one, 0) - 2 * PAD, { height, obstacles, memory: this.memory });
      for (const label of placed) {
        const colour = label.tone === "chosen" ? theme.selected : theme.text;
        if (style.leader) this.leader(label, height);
        let x = label.left;
        for (const [i, part] of label.parts.entries()) {
          const width = label.widths[i] as number;
          this.part(part, x, label.top, width, height, size, colour);
          x += width;
        }
        // What has been placed stands in the way of the next style.
        obstacles.push({ left: label.left, top: label.top, width: label.width, height });
      }
      this.styled += placed.length;
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
