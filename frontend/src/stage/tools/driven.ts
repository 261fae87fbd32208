import * as THREE from "three";
import type { Driver, FixtureMark, Mounted } from "../data";
import type { BeamState } from "../scene/beams";
import type { ShownPane } from "../view/panes";
import { project, type Sheet } from "./sheet";

/** Beside the clamp, where no number stands. */
const ASIDE_PX = 7;
const HALF_PX = 2.6;

/** Beside each fixture who drives it: a square is a hand, a triangle a console, a ring a look. Home has no mark. */
export function drawDriven(sheet: Sheet, pane: ShownPane, mounted: readonly Mounted[], state: BeamState, drivers: ReadonlyMap<string, Driver>): void {
  if (!drivers.size || pane.pane.picture !== "live" || pane.pane.labels === false) return;
  const { pen, theme } = sheet;
  for (const fixture of mounted) {
    const driver = drivers.get(fixture.id);
    if (!driver || driver === "home") continue;
    const at = project(pane, new THREE.Vector3(...(state.placeOf(fixture.id) ?? fixture).position));
    if (!at || at.x < pane.left || at.x > pane.left + pane.width) continue;
    markOf(pen, driver, at.x - ASIDE_PX, at.y - ASIDE_PX, HALF_PX);
    pen.lineWidth = 1.2;
    pen.fillStyle = driver === "hands" ? theme.attention : theme.selected;
    pen.strokeStyle = driver === "look" ? theme.dim : theme.ground;
    if (driver !== "look") pen.fill();
    pen.stroke();
  }
}

const RING_PX = 12;
const FADES_S = 4;

/** A ring around each fixture that something has just moved, the fainter the longer ago (seconds, by id). */
export function drawMoved(sheet: Sheet, pane: ShownPane, mounted: readonly Mounted[], state: BeamState, moved: ReadonlyMap<string, number>): void {
  if (!moved.size || pane.pane.picture !== "live") return;
  const { pen, theme } = sheet;
  pen.save();
  pen.strokeStyle = theme.active;
  for (const fixture of mounted) {
    const ago = moved.get(fixture.id);
    if (ago === undefined) continue;
    const at = project(pane, new THREE.Vector3(...(state.placeOf(fixture.id) ?? fixture).position));
    if (!at || at.x < pane.left || at.x > pane.left + pane.width) continue;
    const fresh = Math.max(1 - ago / FADES_S, 0.15);
    pen.globalAlpha = fresh;
    pen.lineWidth = 1 + 2 * fresh;
    pen.beginPath();
    pen.arc(at.x, at.y, RING_PX, 0, 2 * Math.PI);
    pen.stroke();
  }
  pen.restore();
}

const [MARK_PX, DOT_PX] = [10, 3.6];
/** Larger than any plate: who is near is in the same cell or beside it. */
const CELL_PX = 48;

/** Plates that lie on nobody's. */
class Plates {
  private readonly cells = new Map<string, { x: number; y: number; half: number }[]>();

  /** Whether there is room for one; then it is there. */
  put(x: number, y: number, half: number): boolean {
    const [column, row] = [Math.floor(x / CELL_PX), Math.floor(y / CELL_PX)];
    for (let i = column - 1; i <= column + 1; i++) {
      for (let k = row - 1; k <= row + 1; k++) {
        if (this.cells.get(`${i} ${k}`)?.some((one) => Math.abs(one.x - x) <= one.half + half && Math.abs(one.y - y) <= MARK_PX + 4)) return false;
      }
    }
    const here = this.cells.get(`${column} ${row}`);
    if (here) here.push({ x, y, half });
    else this.cells.set(`${column} ${row}`, [{ x, y, half }]);
    return true;
  }
}

/** On each fixture a plate with what it belongs to, its universe or its dimmer; where plates would lie on each other, dots
 * of the same colour. What belongs nowhere has an empty ring. */
export function drawMarks(sheet: Sheet, pane: ShownPane, mounted: readonly Mounted[], state: BeamState, marks: ReadonlyMap<string, FixtureMark>): void {
  if (!marks.size || pane.pane.labels === false) return;
  const { pen, theme } = sheet;
  const plates = new Plates();
  pen.save();
  pen.font = `600 ${MARK_PX}px ${theme.numbers}`;
  pen.textAlign = "center";
  pen.textBaseline = "middle";
  pen.lineWidth = 1.4;
  for (const fixture of mounted) {
    const mark = marks.get(fixture.id);
    const at = mark && project(pane, new THREE.Vector3(...(state.placeOf(fixture.id) ?? fixture).position));
    if (!mark || !at || at.x < pane.left || at.x > pane.left + pane.width) continue;
    const half = (mark.text.length * MARK_PX * 0.6) / 2 + 3;
    const room = mark.text !== "" && plates.put(at.x, at.y, half);
    pen.beginPath();
    if (room) pen.roundRect(at.x - half, at.y - MARK_PX / 2 - 2, half * 2, MARK_PX + 4, 3);
    else pen.arc(at.x, at.y, DOT_PX, 0, 2 * Math.PI);
    pen.fillStyle = mark.colour;
    pen.strokeStyle = mark.text ? theme.ground : theme.attention;
    if (mark.text) pen.fill();
    pen.stroke();
    if (!room) continue;
    pen.fillStyle = theme.ground;
    pen.fillText(mark.text, at.x, at.y + 0.5);
  }
  pen.restore();
}

function markOf(pen: CanvasRenderingContext2D, driver: Driver, x: number, y: number, half: number): void {
  pen.beginPath();
  if (driver === "hands") pen.rect(x - half, y - half, 2 * half, 2 * half);
  else if (driver === "look") pen.arc(x, y, half * 0.9, 0, 2 * Math.PI);
  else {
    pen.moveTo(x, y - half * 1.3);
    pen.lineTo(x + half * 1.3, y + half);
    pen.lineTo(x - half * 1.3, y + half);
    pen.closePath();
  }
}
