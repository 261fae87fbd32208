import * as THREE from "three";
import type { ShownPane } from "../view/panes";
import { project, type Sheet } from "./sheet";

const HALF_M = 10;
const DASH = [10, 4, 2, 4];

/** Where nothing is built yet: the floor as a grid of metres about the datums, which are named. */
export function drawGround(sheet: Sheet, pane: ShownPane): void {
  const at = (x: number, y: number) => new THREE.Vector3(x, y, 0);
  sheet.pen.save();
  sheet.pen.globalAlpha = 0.45;
  for (let i = -HALF_M; i <= HALF_M; i++) {
    if (i === 0) continue;
    sheet.line(pane, at(i, -HALF_M), at(i, HALF_M), sheet.theme.faint, [], i % 5 ? 0.5 : 1);
    sheet.line(pane, at(-HALF_M, i), at(HALF_M, i), sheet.theme.faint, [], i % 5 ? 0.5 : 1);
  }
  sheet.pen.restore();
  sheet.line(pane, at(0, -HALF_M), at(0, HALF_M), sheet.theme.datum, DASH);
  sheet.line(pane, at(-HALF_M, 0), at(HALF_M, 0), sheet.theme.datum, DASH);
  nameDatums(sheet, pane, 4);
}

/** The names of the centre line and the setting line, so many metres from where they meet. */
export function nameDatums(sheet: Sheet, pane: ShownPane, metres: number): void {
  const across = project(pane, new THREE.Vector3(-metres, 0, 0));
  const along = project(pane, new THREE.Vector3(0, -metres, 0));
  if (across) sheet.text("setting line", across.x, across.y - 8, sheet.theme.dim, "center", 10.5);
  if (along) sheet.text("centre line", along.x + 6, along.y, sheet.theme.dim, "left", 10.5);
}

/** Where a section is cut, in the trade's words. */
export function cutSaid(x: number, said: (metres: number) => string): string {
  if (Math.abs(x) < 0.005) return "cut on the centre line, looking to SL";
  return `cut at ${x > 0 ? "SL" : "SR"} ${said(Math.abs(x))}, looking to SL`;
}
