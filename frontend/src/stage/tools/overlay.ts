import * as THREE from "three";
import type { CarrierMark, Drawn, Ghost, GuideShape, LabelChoice, Mounted, Pane, RailLine } from "../data";
import type { BeamState } from "../scene/beams";
import type { MeshStore } from "../scene/meshes";
import type { Landings } from "../scene/landings";
import type { Solids } from "../scene/solids";
import type { Stands } from "../scene/stands";
import type { Viewpoint } from "../view/cameras";
import type { Handle } from "./handles";
import { sampledLines } from "./draw";
import { Ghosts } from "./ghosts";
import { drawGuide } from "./guide";
import { Labels } from "./labels";

/** Colours and the face of what is drawn over the picture; they come from the theme. */
export interface StageTheme {
  ground: string;
  line: string;
  fill: string;
  datum: string;
  active: string;
  selected: string;
  attention: string;
  text: string;
  dim: string;
  faint: string;
  numbers: string;
}

export interface OverlayPane {
  pane: Pane;
  viewpoint: Viewpoint;
  camera: THREE.PerspectiveCamera | THREE.OrthographicCamera;
  /** CSS pixels from the top left of the stage. */
  left: number;
  top: number;
  width: number;
  height: number;
}

/** A length between two places; `done` when both are taken. */
export interface Measure {
  from: THREE.Vector3;
  to: THREE.Vector3;
  done: boolean;
}

/** A box to select by, in CSS pixels of the stage. */
export interface SelectBox {
  pane: string;
  from: { x: number; y: number };
  to: { x: number; y: number };
  touching: boolean;
}

/** What somebody else has selected. */
export interface OthersSelection {
  name: string;
  ids: readonly string[];
}

export interface OverlayContent {
  others: readonly OthersSelection[];
  mounted: Mounted[];
  state: BeamState;
  stands: Stands;
  solids: Solids;
  landings: Landings;
  selected: ReadonlySet<string>;
  hovered: string | null;
  ghost: Ghost | null;
  handles: Handle[];
  handleHot: string | null;
  aimAt: THREE.Vector3 | null;
  labels: LabelChoice;
  measure: Measure | null;
  guide: GuideShape | null;
  carriers: readonly CarrierMark[];
  drawn: Drawn | null;
  box: SelectBox | null;
  /** There is no WebGL: what stands where is drawn here, as outlines. */
  lost: boolean;
}

const RING = 20;

/** A point of the show in CSS pixels of the stage; null behind the camera. */
export function project(pane: OverlayPane, p: THREE.Vector3): { x: number; y: number } | null {
  const clip = p.clone().project(pane.camera);
  if (clip.z > 1 || clip.z < -1) return null;
  return { x: pane.left + (clip.x * 0.5 + 0.5) * pane.width, y: pane.top + (0.5 - clip.y * 0.5) * pane.height };
}

/** Draws what is not light: datums, symbols, selection, ghosts, handles, the ground rose and the scale bar. */
export class Overlay {
  private readonly pen: CanvasRenderingContext2D;
  readonly labels: Labels;
  readonly ghosts: Ghosts;
  constructor(
    canvas: HTMLCanvasElement,
    private readonly theme: StageTheme,
    meshes: MeshStore,
    changed: () => void,
  ) {
    this.pen = canvas.getContext("2d") as CanvasRenderingContext2D;
    this.labels = new Labels(theme, this.pen);
    this.ghosts = new Ghosts(this.pen, theme, meshes, changed);
  }

  private under: Path2D | null = null;
  rails: Readonly<Record<string, readonly RailLine[]>> = {};

  /** A base drawing as one path, made once however large it is. */
  setUnderlay(lines: readonly (readonly number[])[]): void {
    if (!lines.length) {
      this.under = null;
      return;
    }
    const path = new Path2D();
    for (const line of lines) {
      path.moveTo(line[0] ?? 0, line[1] ?? 0);
      for (let i = 2; i + 1 < line.length; i += 2) path.lineTo(line[i] as number, line[i + 1] as number);
    }
    this.under = path;
  }

  private underlay(pane: OverlayPane): void {
    const origin = project(pane, new THREE.Vector3(0, 0, 0));
    const right = project(pane, new THREE.Vector3(1, 0, 0));
    const up = project(pane, new THREE.Vector3(0, 1, 0));
    if (!this.under || !origin || !right || !up) return;
    const { pen } = this;
    pen.save();
    pen.transform(right.x - origin.x, right.y - origin.y, up.x - origin.x, up.y - origin.y, origin.x, origin.y);
    pen.lineWidth = 1 / Math.max(Math.hypot(right.x - origin.x, right.y - origin.y), 1e-6);
    pen.strokeStyle = this.theme.faint;
    pen.globalAlpha = 0.55;
    pen.stroke(this.under);
    pen.restore();
  }

  /** How many labels were drawn in each pane. */
  private readonly counted = new Map<string, { shown: number; styled: number }>();

  /** Of all labels that are on screen now. */
  count(of: "shown" | "styled"): number {
    return [...this.counted.values()].reduce((sum, one) => sum + one[of], 0);
  }

  /** Draw what has changed: the panes named in `stale`. The others stay as they are. */
  draw(panes: OverlayPane[], stale: ReadonlySet<string>, content: OverlayContent, ratio: number): void {
    const { pen } = this;
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    for (const id of this.counted.keys()) if (!panes.some(({ pane }) => pane.id === id)) this.counted.delete(id);
    for (const pane of panes) {
      if (!stale.has(pane.pane.id)) continue;
      this.labels.shown = this.labels.styled = 0;
      pen.save();
      pen.beginPath();
      pen.rect(pane.left, pane.top, pane.width, pane.height);
      pen.clip();
      pen.clearRect(pane.left, pane.top, pane.width, pane.height);
      const before = content.stands.take(pane.pane.picture);
      if (content.lost) this.outlines(pane, content.solids);
      if (pane.pane.view === "plan") this.underlay(pane);
      if (pane.pane.view !== "free") this.datums(pane);
      this.fixtures(pane, content);
      this.othersSelection(pane, content);
      this.selection(pane, content);
      if (content.ghost) this.ghosts.draw(pane, content.ghost, content.state);
      this.carriers(pane, content);
      this.labels.drawStyles(pane, content.mounted, content.state, content.selected, this.rails);
      if (content.guide) drawGuide(pen, pane, content.guide, this.theme, content.handleHot);
      this.labels.draw(pane, content.labels, content.mounted, content.state, content.landings, content.selected, ratio);
      this.handles(pane, content);
      if (content.measure) this.measure(pane, content.measure);
      if (content.drawn) this.drawn(pane, content.drawn);
      if (content.box?.pane === pane.pane.id) this.selectBox(content.box);
      if (content.aimAt) this.aimMark(pane, content.aimAt);
      if (pane.pane.view === "free") this.rose(pane);
      else this.scale(pane);
      content.stands.take(before);
      pen.restore();
      this.counted.set(pane.pane.id, { shown: this.labels.shown, styled: this.labels.styled });
    }
  }

  private line(pane: OverlayPane, a: THREE.Vector3, b: THREE.Vector3, colour: string, dash: number[] = [], width = 1): void {
    const from = project(pane, a);
    const to = project(pane, b);
    if (!from || !to) return;
    const { pen } = this;
    pen.strokeStyle = colour;
    pen.lineWidth = width;
    pen.setLineDash(dash);
    pen.beginPath();
    pen.moveTo(from.x, from.y);
    pen.lineTo(to.x, to.y);
    pen.stroke();
    pen.setLineDash([]);
  }

  private text(words: string, x: number, y: number, colour: string, align: CanvasTextAlign = "center", size = 11): void {
    const { pen } = this;
    pen.font = `${size}px ${this.theme.numbers}`;
    pen.textAlign = align;
    pen.textBaseline = "middle";
    pen.lineWidth = 3;
    pen.strokeStyle = this.theme.ground;
    pen.strokeText(words, x, y);
    pen.fillStyle = colour;
    pen.fillText(words, x, y);
  }

  private datums(pane: OverlayPane): void {
    const far = 60;
    const dash = [10, 4, 2, 4];
    const sideways = pane.pane.view === "left" || pane.pane.view === "right" || pane.pane.view === "section";
    if (!sideways) {
      this.line(pane, new THREE.Vector3(0, -far, 0), new THREE.Vector3(0, far, 0), this.theme.datum, dash);
      this.line(pane, new THREE.Vector3(0, 0, 0), new THREE.Vector3(0, 0, 30), this.theme.datum, dash);
    }
    if (pane.pane.view === "plan") this.line(pane, new THREE.Vector3(-far, 0, 0), new THREE.Vector3(far, 0, 0), this.theme.datum, dash);
    else this.line(pane, new THREE.Vector3(-far, -far, 0), new THREE.Vector3(far, far, 0), this.theme.datum, dash);
  }

  /** In drawn views: each fixture as a glyph to its true size, by kind, with a tick where its beam points. */
  private fixtures(pane: OverlayPane, content: OverlayContent): void {
    const { pen, theme } = this;
    if (pane.pane.view === "free") return;
    const perMetre = pane.height / pane.viewpoint.height;
    for (const fixture of content.mounted) {
      const place = content.state.placeOf(fixture.id) ?? fixture;
      const at = project(pane, new THREE.Vector3(...place.position));
      if (!at) continue;
      const chosen = content.selected.has(fixture.id);
      const colour = chosen ? theme.selected : fixture.id === content.hovered ? theme.active : theme.text;
      const r = Math.max(3.5, 0.19 * perMetre);
      pen.strokeStyle = colour;
      pen.fillStyle = theme.ground;
      pen.lineWidth = chosen ? 1.8 : 1.2;
      pen.beginPath();
      // A profile is a lozenge, a wash a circle: told apart without colour.
      if (fixture.kind === "profile") {
        pen.moveTo(at.x, at.y - r * 1.25);
        pen.lineTo(at.x + r, at.y);
        pen.lineTo(at.x, at.y + r * 1.25);
        pen.lineTo(at.x - r, at.y);
        pen.closePath();
      } else pen.arc(at.x, at.y, r, 0, 2 * Math.PI);
      pen.fill();
      pen.stroke();
      const pose = content.state.pose(fixture.id, pane.pane.picture);
      if (pose) {
        const tip = project(pane, new THREE.Vector3(...place.position).addScaledVector(pose.along, 0.75));
        if (tip) {
          pen.beginPath();
          pen.moveTo(at.x, at.y);
          pen.lineTo(tip.x, tip.y);
          pen.stroke();
        }
      }
      if (perMetre > 14 && !content.labels.bodies && !this.labels.labelled(fixture.id, pane.pane.view)) this.text(fixture.label, at.x, at.y - r * 1.25 - 8, chosen ? theme.selected : theme.dim);
    }
  }

  private othersSelection(pane: OverlayPane, content: OverlayContent): void {
    for (const { name, ids } of content.others) {
      let named = false;
      for (const id of ids) {
        const fixture = content.state.placeOf(id);
        const bounds = fixture ? null : content.solids.bounds(id);
        const middle = fixture ? new THREE.Vector3(...fixture.position) : bounds ? bounds.getCenter(new THREE.Vector3()).setZ(bounds.max.z) : null;
        if (!middle) continue;
        if (fixture && pane.pane.view === "free") this.bracket(pane, middle.clone().add(new THREE.Vector3(0, 0, -0.35)), this.theme.faint);
        else this.box(pane, bounds, this.theme.faint, [3, 4]);
        const label: { x: number; y: number } | null = named ? null : project(pane, middle);
        if (label) this.text(name, label.x, label.y - 12, this.theme.dim, "center", 10.5);
        named = named || label !== null;
      }
    }
  }

  private selection(pane: OverlayPane, content: OverlayContent): void {
    const marks: [Iterable<string>, string][] = [[content.selected, this.theme.selected]];
    if (content.hovered && !content.selected.has(content.hovered)) marks.unshift([[content.hovered], this.theme.active]);
    for (const [ids, colour] of marks) {
      for (const id of ids) {
        const fixture = content.state.placeOf(id);
        if (fixture) {
          if (pane.pane.view === "free") this.bracket(pane, new THREE.Vector3(...fixture.position).add(new THREE.Vector3(0, 0, -0.35)), colour);
        } else this.box(pane, content.solids.bounds(id), colour);
      }
    }
  }

  /** An outline while it is drawn: its lines with their lengths, its corners, and the next line to the pointer. */
  private drawn(pane: OverlayPane, drawn: Drawn): void {
    const { pen, theme } = this;
    const place = (a: number, b: number) => (drawn.plane === "plan" ? new THREE.Vector3(a, b, 0) : drawn.plane === "front" ? new THREE.Vector3(a, 0, b) : new THREE.Vector3(0, a, b));
    const at = (a: number, b: number) => project(pane, place(a, b));
    const lines = sampledLines(drawn.corners, drawn.closed);
    for (const line of lines) {
      for (let i = 0; i + 1 < line.length; i++) {
        const [a, b] = [line[i] as [number, number], line[i + 1] as [number, number]];
        this.line(pane, place(...a), place(...b), theme.active, [], 1.6);
      }
      const [first, last] = [line[0], line[line.length - 1]];
      if (first && last && (drawn.points?.length ?? 0) >= drawn.corners.length - 1) this.length(at((first[0] + last[0]) / 2, (first[1] + last[1]) / 2), Math.hypot(last[0] - first[0], last[1] - first[1]), theme.dim);
    }
    (drawn.points ?? drawn.corners).forEach(([x, y]) => {
      const corner = at(x, y);
      if (!corner) return;
      pen.fillStyle = theme.active;
      pen.fillRect(corner.x - 3, corner.y - 3, 6, 6);
    });
    const last = (drawn.points ?? drawn.corners).at(-1);
    if (!drawn.next) return;
    const [x, y] = drawn.next;
    const tip = at(x, y);
    if (last && !drawn.closed) {
      this.line(pane, place(last[0], last[1]), place(x, y), theme.active, [4, 3], 1.2);
      this.length(at((x + last[0]) / 2, (y + last[1]) / 2), Math.hypot(x - last[0], y - last[1]), theme.active);
    }
    if (!tip) return;
    pen.strokeStyle = theme.selected;
    pen.lineWidth = 1.4;
    pen.beginPath();
    pen.arc(tip.x, tip.y, 5, 0, 2 * Math.PI);
    pen.stroke();
    if (drawn.why) this.text(drawn.why, tip.x, tip.y + 15, theme.selected, "center", 10.5);
  }

  private length(at: { x: number; y: number } | null, metres: number, colour: string): void {
    if (at && metres > 0.005) this.text(`${metres.toFixed(2)} m`, at.x, at.y - 9, colour, "center", 10.5);
  }

  private selectBox({ from, to, touching }: SelectBox): void {
    const { pen, theme } = this;
    pen.strokeStyle = theme.selected;
    pen.lineWidth = 1.2;
    pen.setLineDash(touching ? [4, 3] : []);
    pen.strokeRect(Math.min(from.x, to.x), Math.min(from.y, to.y), Math.abs(to.x - from.x), Math.abs(to.y - from.y));
    pen.setLineDash([]);
    this.text(touching ? "what it touches" : "what is inside", (from.x + to.x) / 2, Math.min(from.y, to.y) - 9, theme.selected, "center", 10.5);
  }

  private bracket(pane: OverlayPane, p: THREE.Vector3, colour: string): void {
    const at = project(pane, p);
    if (!at) return;
    const { pen } = this;
    pen.strokeStyle = colour;
    pen.lineWidth = 1.6;
    for (const [from, to] of [[-0.9, 0.9], [Math.PI - 0.9, Math.PI + 0.9]] as const) {
      pen.beginPath();
      pen.arc(at.x, at.y, RING, from, to);
      pen.stroke();
    }
  }

  private box(pane: OverlayPane, box: THREE.Box3 | null, colour: string, dash: number[] = []): void {
    if (!box) return;
    const corner = (i: number) =>
      new THREE.Vector3(i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z);
    for (const [a, b] of [[0, 1], [1, 3], [3, 2], [2, 0], [4, 5], [5, 7], [7, 6], [6, 4], [0, 4], [1, 5], [2, 6], [3, 7]] as const) {
      this.line(pane, corner(a), corner(b), colour, dash, 1.2);
    }
  }

  /** The handles of carriers: a lozenge at the pivot, its name beside it where it is selected or pointed at. */
  private carriers(pane: OverlayPane, content: OverlayContent): void {
    const { pen, theme } = this;
    for (const { id, name, position } of content.carriers) {
      const at = project(pane, new THREE.Vector3(...position));
      if (!at) continue;
      const on = content.selected.has(id) || content.hovered === id;
      pen.strokeStyle = content.selected.has(id) ? theme.selected : on ? theme.active : theme.dim;
      pen.lineWidth = on ? 1.8 : 1.2;
      pen.beginPath();
      for (const [k, [dx, dy]] of ([[0, -9], [9, 0], [0, 9], [-9, 0]] as const).entries()) pen[k ? "lineTo" : "moveTo"](at.x + dx, at.y + dy);
      pen.closePath();
      pen.moveTo(at.x - 3, at.y);
      pen.lineTo(at.x + 3, at.y);
      pen.moveTo(at.x, at.y - 3);
      pen.lineTo(at.x, at.y + 3);
      pen.stroke();
      if (on || pane.pane.view !== "free") this.text(name, at.x, at.y + 18, pen.strokeStyle, "center", 10.5);
    }
  }

  private handles(pane: OverlayPane, content: OverlayContent): void {
    const { pen, theme } = this;
    for (const handle of content.handles) {
      const ends = handle.ends(pane);
      if (!ends) continue;
      const colour = content.handleHot === handle.name ? theme.text : theme.active;
      pen.strokeStyle = pen.fillStyle = colour;
      pen.lineWidth = 2;
      if (handle.axis) {
        pen.beginPath();
        pen.moveTo(ends.from.x, ends.from.y);
        pen.lineTo(ends.to.x, ends.to.y);
        pen.stroke();
        pen.beginPath();
        pen.arc(ends.to.x, ends.to.y, 4.5, 0, 2 * Math.PI);
        pen.fill();
        const dx = ends.to.x - ends.from.x;
        const dy = ends.to.y - ends.from.y;
        const far = Math.hypot(dx, dy) || 1;
        this.text(handle.name, ends.to.x + (dx / far) * 16, ends.to.y + (dy / far) * 16, colour);
      } else {
        pen.beginPath();
        pen.rect(ends.from.x - 5, ends.from.y - 5, 10, 10);
        pen.stroke();
      }
    }
  }

  private measure(pane: OverlayPane, { from, to }: Measure): void {
    const a = project(pane, from);
    const b = project(pane, to);
    if (!a || !b) return;
    this.line(pane, from, to, this.theme.active, [], 1.6);
    const { pen } = this;
    pen.fillStyle = this.theme.active;
    for (const end of [a, b]) {
      pen.beginPath();
      pen.arc(end.x, end.y, 3.5, 0, 2 * Math.PI);
      pen.fill();
    }
    const way = to.clone().sub(from);
    const level = Math.hypot(way.x, way.y);
    const x = (a.x + b.x) / 2;
    const y = (a.y + b.y) / 2;
    this.text(`${way.length().toFixed(2)} m`, x, y - 12, this.theme.active, "center", 12);
    this.text(`level ${level.toFixed(2)} · up ${way.z.toFixed(2)}`, x, y + 12, this.theme.dim, "center", 10);
  }

  /** Without WebGL: the boxes round what stands there, so that plans can still be read and picked. */
  private outlines(pane: OverlayPane, solids: Solids): void {
    for (const solid of solids.all()) if (pane.pane.view !== "free" || solid.kind !== "figure") this.box(pane, solids.bounds(solid.id), this.theme.faint);
  }

  private aimMark(pane: OverlayPane, p: THREE.Vector3): void {
    const at = project(pane, p);
    if (!at) return;
    const { pen } = this;
    pen.strokeStyle = this.theme.active;
    pen.lineWidth = 1.6;
    pen.beginPath();
    pen.arc(at.x, at.y, 7, 0, 2 * Math.PI);
    for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
      pen.moveTo(at.x + dx * 4, at.y + dy * 4);
      pen.lineTo(at.x + dx * 12, at.y + dy * 12);
    }
    pen.stroke();
  }

  /** Where upstage and stage left are, as seen from here. */
  private rose(pane: OverlayPane): void {
    const { pen, theme } = this;
    const x = pane.left + pane.width - 46;
    const y = pane.top + pane.height - 44;
    const sight = pane.viewpoint.target.clone().sub(pane.viewpoint.eye).normalize();
    const right = new THREE.Vector3().crossVectors(sight, new THREE.Vector3(0, 0, 1)).normalize();
    const flat = Math.max(0.35, Math.abs(sight.z));
    const forward = new THREE.Vector3().crossVectors(new THREE.Vector3(0, 0, 1), right);
    pen.strokeStyle = theme.faint;
    pen.lineWidth = 1;
    pen.beginPath();
    pen.ellipse(x, y, 19, 19 * flat, 0, 0, 2 * Math.PI);
    pen.stroke();
    const sides: [string, number, number][] = [["US", 0, 1], ["DS", 0, -1], ["SL", 1, 0], ["SR", -1, 0]];
    for (const [name, sx, sy] of sides) {
      const to = new THREE.Vector3(sx, sy, 0);
      const px = x + to.dot(right) * 28;
      const py = y - to.dot(forward) * 28 * flat;
      this.text(name, px, py, name === "US" ? theme.active : theme.dim, "center", 9);
    }
  }

  private scale(pane: OverlayPane): void {
    const { pen, theme } = this;
    const perMetre = pane.height / pane.viewpoint.height;
    const length = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50].find((metres) => metres * perMetre > 50) ?? 50;
    const x = pane.left + 14;
    const y = pane.top + pane.height - 24;
    pen.strokeStyle = theme.dim;
    pen.lineWidth = 1;
    pen.beginPath();
    pen.moveTo(x, y - 5);
    pen.lineTo(x, y);
    pen.lineTo(x + length * perMetre, y);
    pen.lineTo(x + length * perMetre, y - 5);
    pen.stroke();
    this.text(`${length} m`, x, y + 11, theme.dim, "left", 10);
  }
}
