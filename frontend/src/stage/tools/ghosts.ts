import * as THREE from "three";
import type { Body, Cell, Ghost } from "../data";
import type { BeamState } from "../scene/beams";
import type { MeshStore } from "../scene/meshes";
import type { ShownPane } from "../view/panes";
import { type Obstacle, placeCaption } from "./placing";
import { project, type StageTheme } from "./sheet";

/** Edges between faces that meet at more than this are drawn. */
const CREASE_DEG = 28;
/** More bodies than this are drawn as marks alone. */
const DRAWN = 60;
const LINE_CHARS = 34;
const LINE_PX = 16;
/** How far round its clamp a ghost is drawn. */
const MARK_PX = 10;

/** How a part stands in its chain's frame, nothing panned and nothing tilted. */
function atHome(cell: Cell | undefined, turns: number): THREE.Matrix4 {
  const home = new THREE.Matrix4();
  if (!cell) return home;
  if (turns >= 1) home.makeRotationZ(cell.zero[0]).setPosition(...cell.pan);
  if (turns === 2) home.multiply(new THREE.Matrix4().makeRotationX(cell.zero[1]).setPosition(...cell.tilt));
  return home;
}

/** A line that is too long for a note, broken after commas and colons. */
export function broken(note: string, most = LINE_CHARS): string[] {
  const lines: string[] = [];
  for (const piece of note.split(/(?<=[,:]) /)) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + 1 + piece.length <= most) lines[lines.length - 1] = `${last} ${piece}`;
    else lines.push(piece);
  }
  return lines;
}

/** What an edit would come to: the edges of bodies that are not there yet, their numbers, and a note. */
export class Ghosts {
  /** Pairs of points in the frame of the part, by mesh key. */
  private readonly edges = new Map<string, Float32Array>();
  constructor(
    private readonly pen: CanvasRenderingContext2D,
    private readonly theme: StageTheme,
    private readonly meshes: MeshStore,
    private readonly changed: () => void,
  ) {}

  /** Have the edges of bodies ready; drawn as soon as their meshes are here. */
  prepare(bodies: readonly Body[]): void {
    const parts = bodies.flatMap((body) => body.parts);
    this.meshes.keep("ghosts", parts.map(({ mesh }) => mesh));
    for (const key of this.edges.keys()) if (!parts.some(({ mesh }) => mesh === key)) this.edges.delete(key);
    for (const { mesh } of parts) {
      if (this.edges.has(mesh)) continue;
      this.edges.set(mesh, new Float32Array());
      void this.meshes.get(mesh).then(
        (geometry) => {
          this.edges.set(mesh, new THREE.EdgesGeometry(geometry, CREASE_DEG).getAttribute("position").array as Float32Array);
          this.changed();
        },
        () => this.edges.delete(mesh),
      );
    }
  }

  /** `standing`: what stands there already, as boxes that the note keeps off. */
  draw(pane: ShownPane, ghost: Ghost, state: BeamState, standing: () => Obstacle[]): void {
    const { pen, theme } = this;
    const places: { x: number; y: number }[] = [];
    const bodies = new Map(ghost.bodies.map((body) => [body.key, body]));
    ghost.mounts.forEach((mount, i) => {
      const at = project(pane, new THREE.Vector3(...mount.position));
      if (!at) return;
      const fresh = state.rowOf(mount.id) === undefined;
      const body = fresh && i < DRAWN ? bodies.get(mount.body ?? "") : undefined;
      if (body) this.body(pane, mount, body);
      if (fresh || ghost.numbered) {
        pen.strokeStyle = theme.active;
        pen.lineWidth = 1.4;
        pen.setLineDash([3, 2]);
        pen.beginPath();
        pen.arc(at.x, at.y, 8, 0, 2 * Math.PI);
        pen.stroke();
        pen.setLineDash([]);
        this.words([mount.label], at.x, at.y - 15, 11);
      }
      places.push(at);
    });
    for (const solid of ghost.solids) {
      const at = project(pane, new THREE.Vector3(...solid.position));
      if (at) places.push(at);
    }
    if (ghost.note && places.length) this.note(pane, ghost.note, places, standing());
  }

  /** The edges of a body at home: nothing panned, nothing tilted. */
  private body(pane: ShownPane, mount: Ghost["mounts"][number], body: Body): void {
    const cell = body.cells[0];
    const turn = new THREE.Quaternion(...mount.rotation).multiply(new THREE.Quaternion(...(cell?.mountTurn ?? [0, 0, 0, 1])));
    const { pen } = this;
    pen.strokeStyle = this.theme.active;
    pen.globalAlpha = 0.75;
    pen.lineWidth = 0.9;
    pen.beginPath();
    for (const part of body.parts) {
      const edges = this.edges.get(part.mesh) ?? new Float32Array();
      const home = atHome(cell, part.turns);
      for (let k = 0; k + 5 < edges.length; k += 6) {
        const [a, b] = [k, k + 3].map((n) =>
          project(pane, new THREE.Vector3(edges[n], edges[n + 1], edges[n + 2]).applyMatrix4(home).applyQuaternion(turn).add(new THREE.Vector3(...mount.position))),
        );
        if (!a || !b) continue;
        pen.moveTo(a.x, a.y);
        pen.lineTo(b.x, b.y);
      }
    }
    pen.stroke();
    pen.globalAlpha = 1;
  }

  /** Beside what it is of, off bodies and ghosts alike. */
  private note(pane: ShownPane, note: string, places: readonly { x: number; y: number }[], standing: Obstacle[]): void {
    const lines = broken(note);
    this.pen.font = `12px ${this.theme.numbers}`;
    const width = Math.max(...lines.map((line) => this.pen.measureText(line).width));
    const ghosts = places.map(({ x, y }): Obstacle => ({ left: x - MARK_PX, top: y - MARK_PX - 14, width: 2 * MARK_PX, height: 2 * MARK_PX + 14 }));
    const [left, top] = [Math.min(...ghosts.map((one) => one.left)), Math.min(...ghosts.map((one) => one.top))];
    const whole = { left, top, width: Math.max(...ghosts.map((one) => one.left + one.width)) - left, height: Math.max(...ghosts.map((one) => one.top + one.height)) - top };
    // The pane's own chip and scale bar stay free.
    const within = { left: pane.left + 8, top: pane.top + 40, width: pane.width - 16, height: pane.height - 84 };
    const at = placeCaption({ width, height: lines.length * LINE_PX }, whole, [...standing, ...ghosts], within);
    this.words(lines, at.left, at.top + LINE_PX / 2, 12, "left");
  }

  private words(lines: readonly string[], x: number, y: number, size: number, align: CanvasTextAlign = "center"): void {
    const { pen, theme } = this;
    pen.font = `${size}px ${theme.numbers}`;
    pen.textAlign = align;
    pen.textBaseline = "middle";
    pen.lineWidth = 3;
    pen.strokeStyle = theme.ground;
    pen.fillStyle = theme.active;
    lines.forEach((line, i) => {
      pen.strokeText(line, x, y + i * LINE_PX);
      pen.fillText(line, x, y + i * LINE_PX);
    });
  }
}
