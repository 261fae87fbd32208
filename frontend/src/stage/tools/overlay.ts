import type { Measures } from "../measures";
import * as THREE from "three";
import type { CarrierMark, Ghost, LabelChoice, Mounted, RailLine, Told } from "../data";
import type { BeamState } from "../scene/beams";
import type { Landings } from "../scene/landings";
import type { MeshStore } from "../scene/meshes";
import type { Solids } from "../scene/solids";
import type { Stands } from "../scene/stands";
import type { ShownPane } from "../view/panes";
import { Ghosts } from "./ghosts";
import { drawDriven, drawMarks, drawMoved } from "./driven";
import { drawGaps } from "./gaps";
import { cutSaid, drawGround, nameDatums } from "./ground";
import { Labels } from "./labels";
import type { Obstacle } from "./placing";
import { project, Sheet, type StageTheme } from "./sheet";
import type { StageTool } from "./tool";
import { drawZones } from "./zones";

/** What somebody else has selected. */
export interface OthersSelection {
  name: string;
  ids: readonly string[];
}

export interface OverlayContent extends Told {
  others: readonly OthersSelection[];
  mounted: Mounted[];
  state: BeamState;
  stands: Stands;
  solids: Solids;
  landings: Landings;
  selected: ReadonlySet<string>;
  hovered: string | null;
  ghost: Ghost | null;
  handleHot: string | null;
  labels: LabelChoice;
  carriers: readonly CarrierMark[];
  /** All tools: each draws what it has. */
  tools: readonly StageTool[];
  /** There is no WebGL: what stands where is drawn here, as outlines. */
  lost: boolean;
}

/** Draws what is not light: datums, symbols, selection, ghosts, handles, the ground rose and the scale bar. */
export class Overlay {
  private readonly pen: CanvasRenderingContext2D;
  private readonly sheet: Sheet;
  readonly labels: Labels;
  readonly ghosts: Ghosts;
  constructor(
    canvas: HTMLCanvasElement,
    private readonly theme: StageTheme,
    meshes: MeshStore,
    changed: () => void,
  ) {
    this.pen = canvas.getContext("2d") as CanvasRenderingContext2D;
    this.sheet = new Sheet(this.pen, theme);
    this.labels = new Labels(theme, this.pen);
    this.ghosts = new Ghosts(this.pen, theme, meshes, changed);
  }

  private under: Path2D | null = null;
  rails: Readonly<Record<string, readonly RailLine[]>> = {};

  set measures(measures: Measures) {
    this.sheet.measures = measures;
  }

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

  private underlay(pane: ShownPane): void {
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
  draw(panes: ShownPane[], stale: ReadonlySet<string>, content: OverlayContent, ratio: number): void {
    const { pen } = this;
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    for (const id of this.counted.keys()) if (!panes.some(({ pane }) => pane.id === id)) this.counted.delete(id);
    for (const pane of panes) {
      if (!stale.has(pane.pane.id)) continue;
      this.labels.shown = this.labels.styled = this.labels.plain = 0;
      pen.save();
      pen.beginPath();
      pen.rect(pane.left, pane.top, pane.width, pane.height);
      pen.clip();
      pen.clearRect(pane.left, pane.top, pane.width, pane.height);
      const before = content.stands.take(pane.pane.picture);
      if (content.lost) this.outlines(pane, content.solids);
      if (pane.pane.view === "plan") {
        drawGaps(this.sheet, pane, content.solids.all());
        this.underlay(pane);
      }
      const empty = content.solids.empty;
      if (pane.pane.view !== "free") this.datums(pane);
      else if (empty) drawGround(this.sheet, pane);
      if (pane.pane.view === "plan" && empty) nameDatums(this.sheet, pane, 6);
      this.fixtures(pane, content);
      this.othersSelection(pane, content);
      this.selection(pane, content);
      if (content.ghost) this.ghosts.draw(pane, content.ghost, content.state, () => this.labels.obstacles(pane, content.mounted, content.state, this.rails));
      const named = this.carriers(pane, content);
      this.labels.drawStyles(pane, content.mounted, content.state, content.selected, this.rails, content.labels.bodies, named);
      this.labels.draw(pane, content.labels, content.mounted, content.state, content.landings, content.selected, ratio);
      drawDriven(this.sheet, pane, content.mounted, content.state, content.drivers);
      drawMarks(this.sheet, pane, content.mounted, content.state, content.marks);
      drawMoved(this.sheet, pane, content.mounted, content.state, content.moved);
      drawZones(this.sheet, pane, content.zones);
      for (const tool of content.tools) tool.draw(this.sheet, pane, content.handleHot);
      if (pane.pane.view === "free") this.rose(pane);
      else this.scale(pane);
      content.stands.take(before);
      pen.restore();
      this.counted.set(pane.pane.id, { shown: this.labels.shown, styled: this.labels.styled });
    }
  }

  private datums(pane: ShownPane): void {
    const far = 60;
    const dash = [10, 4, 2, 4];
    const sideways = pane.pane.view === "left" || pane.pane.view === "right" || pane.pane.view === "section";
    if (!sideways) {
      this.sheet.line(pane, new THREE.Vector3(0, -far, 0), new THREE.Vector3(0, far, 0), this.theme.datum, dash);
      this.sheet.line(pane, new THREE.Vector3(0, 0, 0), new THREE.Vector3(0, 0, 30), this.theme.datum, dash);
    }
    if (pane.pane.view === "plan") this.sheet.line(pane, new THREE.Vector3(-far, 0, 0), new THREE.Vector3(far, 0, 0), this.theme.datum, dash);
    else this.sheet.line(pane, new THREE.Vector3(-far, -far, 0), new THREE.Vector3(far, far, 0), this.theme.datum, dash);
  }

  /** In drawn views: each fixture as a glyph to its true size, by kind, with a tick where its beam points. */
  private fixtures(pane: ShownPane, content: OverlayContent): void {
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
    }
  }

  private othersSelection(pane: ShownPane, content: OverlayContent): void {
    for (const { name, ids } of content.others) {
      let named = false;
      for (const id of ids) {
        const fixture = content.state.placeOf(id);
        const bounds = fixture ? null : content.solids.bounds(id);
        const middle = fixture ? new THREE.Vector3(...fixture.position) : bounds ? bounds.getCenter(new THREE.Vector3()).setZ(bounds.max.z) : null;
        if (!middle) continue;
        if (fixture && pane.pane.view === "free") this.sheet.bracket(pane, middle.clone().add(new THREE.Vector3(0, 0, -0.35)), this.theme.faint);
        else this.sheet.box(pane, bounds, this.theme.faint, [3, 4]);
        const label: { x: number; y: number } | null = named ? null : project(pane, middle);
        if (label) this.sheet.text(name, label.x, label.y - 12, this.theme.dim, "center", 10.5);
        named = named || label !== null;
      }
    }
  }

  private selection(pane: ShownPane, content: OverlayContent): void {
    const marks: [Iterable<string>, string][] = [[content.selected, this.theme.selected]];
    if (content.hovered && !content.selected.has(content.hovered)) marks.unshift([[content.hovered], this.theme.active]);
    for (const [ids, colour] of marks) {
      for (const id of ids) {
        const fixture = content.state.placeOf(id);
        if (fixture) {
          if (pane.pane.view === "free") this.sheet.bracket(pane, new THREE.Vector3(...fixture.position).add(new THREE.Vector3(0, 0, -0.35)), colour);
        } else this.sheet.box(pane, content.solids.bounds(id), colour);
      }
    }
  }

  /** The handles of carriers: a lozenge at the pivot, its name beside it where it is selected or pointed at. */
  private carriers(pane: ShownPane, content: OverlayContent): Obstacle[] {
    const { pen, theme } = this;
    const written: Obstacle[] = [];
    for (const { id, name, position, focus, short } of content.carriers) {
      const at = project(pane, new THREE.Vector3(...position));
      if (!at) continue;
      const on = content.selected.has(id) || content.hovered === id;
      pen.strokeStyle = content.selected.has(id) ? theme.selected : on ? theme.active : theme.dim;
      pen.lineWidth = on ? 1.8 : 1.2;
      pen.beginPath();
      if (focus) {
        // A small target.
        pen.arc(at.x, at.y, 7, 0, 2 * Math.PI);
        pen.moveTo(at.x + 2.5, at.y);
        pen.arc(at.x, at.y, 2.5, 0, 2 * Math.PI);
      } else for (const [k, [dx, dy]] of ([[0, -9], [9, 0], [0, 9], [-9, 0]] as const).entries()) pen[k ? "lineTo" : "moveTo"](at.x + dx, at.y + dy);
      if (!focus) pen.closePath();
      pen.moveTo(at.x - 3, at.y);
      pen.lineTo(at.x + 3, at.y);
      pen.moveTo(at.x, at.y - 3);
      pen.lineTo(at.x, at.y + 3);
      pen.stroke();
      if (!on && pane.pane.view === "free" && !focus) continue;
      const colour = pen.strokeStyle;
      // Focus points stand close together: their names are told where one looks.
      const words = !focus ? name : on ? `${short ?? ""} ${name}`.trim() : (short ?? "");
      this.sheet.text(words, at.x, at.y + (focus ? 15 : 18), colour, "center", 10.5);
      const width = pen.measureText(words).width;
      written.push({ left: at.x - 9, top: at.y - 9, width: 18, height: 18 }, { left: at.x - width / 2, top: at.y + 12, width, height: 12 });
    }
    return written;
  }

  /** Without WebGL: the boxes round what stands there, so that plans can still be read and picked. */
  private outlines(pane: ShownPane, solids: Solids): void {
    for (const solid of solids.all()) if (pane.pane.view !== "free" || solid.kind !== "figure") this.sheet.box(pane, solids.bounds(solid.id), this.theme.faint);
  }

  /** Where upstage and stage left are, as seen from here. */
  private rose(pane: ShownPane): void {
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
      this.sheet.text(name, px, py, name === "US" ? theme.active : theme.dim, "center", 10);
    }
  }

  private scale(pane: ShownPane): void {
    const { pen, theme } = this;
    const perMetre = pane.height / pane.viewpoint.height;
    const { bars } = this.sheet.measures;
    const [length, said] = bars.find(([metres]) => metres * perMetre > 50) ?? (bars[bars.length - 1] as (typeof bars)[number]);
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
    const cut = pane.pane.view === "section" ? `   ${cutSaid(pane.viewpoint.target.x, this.sheet.measures.said)}` : "";
    this.sheet.text(`${said}${cut}`, x, y + 11, theme.dim, "left", 10);
  }
}
