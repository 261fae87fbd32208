import * as THREE from "three";
import type { Asked, LightPaint, Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import { project, type Sheet, type Spot } from "./sheet";
import { type At, TellingTool } from "./tool";

const SEAT_PX = 3.4;
const [PIN_PX, PIN_UP_PX] = [9, 17];
/** Of more cells than this it is not asked one by one whether something stands before them. */
const ASKED_MOST = 2500;
/** So far before a cell something has to be that hides it. */
const BEFORE_M = 0.12;
/** Numbers on cells keep so far apart. */
const NUMBERS_PX: readonly [number, number] = [34, 15];

const at = (pane: ShownPane, [x, y, z]: Vec3): Spot | null => project(pane, new THREE.Vector3(x, y, z));

/** A place of the picture is asked about: who sees it, who lights it. And what Review draws over the picture: light in false
 * colour, seats by what they see, notes where they are pinned. */
export class AskTool extends TellingTool {
  private asked: Asked = { light: null, seats: [], place: null, rays: [], pins: [] };
  /** Which cells of the light are seen from where a pane looks, as long as that is the same. */
  private readonly seen = new Map<string, { of: LightPaint; from: string; cells: boolean[] }>();

  show(asked: Asked): void {
    this.asked = asked;
    this.stage.touchOverlay();
  }

  protected override tell({ pane, x, y }: At, phase: "hover" | "click"): void {
    if (phase !== "click") return;
    const surface = this.stage.surfaceAt(pane, x, y);
    const { eye, target } = pane.viewpoint;
    this.stage.events.onAsk(surface && { point: surface.point.toArray() as Vec3, normal: surface.normal.toArray() as Vec3, thing: surface.id, eye: eye.toArray() as Vec3, target: target.toArray() as Vec3 });
  }

  override draw(sheet: Sheet, pane: ShownPane): void {
    const { light, seats, place, rays, pins } = this.asked;
    if (light) this.light(sheet, pane, light);
    for (const seat of seats) this.seat(sheet, pane, seat);
    for (const ray of rays) this.ray(sheet, pane, ray);
    if (place) sheet.bracket(pane, new THREE.Vector3(...place), sheet.theme.active);
    for (const pin of pins) this.pin(sheet, pane, pin);
  }

  private light({ pen, theme }: Sheet, pane: ShownPane, light: LightPaint): void {
    const [nx, ny] = light.points;
    const corners = light.places.map((place) => at(pane, place));
    const seen = this.cellsSeen(pane, light);
    pen.save();
    pen.globalAlpha = 0.86;
    for (let i = 0; i < nx * ny; i++) {
      if (!seen[i]) continue;
      const corner = Math.floor(i / nx) * (nx + 1) + (i % nx);
      const [a, b, c, d] = [corners[corner], corners[corner + 1], corners[corner + nx + 2], corners[corner + nx + 1]];
      if (!a || !b || !c || !d) continue;
      pen.fillStyle = light.colours[i] ?? theme.faint;
      // The stroke closes the seam between neighbours.
      pen.strokeStyle = pen.fillStyle;
      pen.lineWidth = 0.7;
      pen.beginPath();
      pen.moveTo(a.x, a.y);
      for (const { x, y } of [b, c, d]) pen.lineTo(x, y);
      pen.closePath();
      pen.fill();
      pen.stroke();
    }
    pen.restore();
    this.contours(pen, theme, pane, light);
    if (light.numbers) this.numbers(pen, theme, pane, light, seen);
  }

  private contours(pen: CanvasRenderingContext2D, theme: Sheet["theme"], pane: ShownPane, light: LightPaint): void {
    pen.save();
    pen.lineJoin = "round";
    pen.font = `10.5px ${theme.numbers}`;
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    for (const [k, { lux, lines }] of light.contours.entries()) {
      for (const line of lines) {
        const spots = line.map((place) => at(pane, place)).filter((one): one is Spot => one !== null);
        if (spots.length < 2) continue;
        pen.beginPath();
        spots.forEach(({ x, y }, i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
        pen.strokeStyle = theme.ground;
        pen.lineWidth = 2.6;
        pen.stroke();
        pen.strokeStyle = theme.text;
        pen.lineWidth = 1;
        pen.stroke();
        // Neighbours have their numbers at other places of their lines.
        const middle = spots[Math.floor(spots.length * (0.5 + 0.22 * ((k % 3) - 1)))];
        const wide = Math.max(...spots.map((one) => one.x)) - Math.min(...spots.map((one) => one.x));
        const high = Math.max(...spots.map((one) => one.y)) - Math.min(...spots.map((one) => one.y));
        if (!middle || light.numbers || wide < 46 || high < 22) continue;
        pen.lineWidth = 3.4;
        pen.strokeStyle = theme.ground;
        pen.strokeText(String(lux), middle.x, middle.y);
        pen.fillStyle = theme.text;
        pen.fillText(String(lux), middle.x, middle.y);
      }
    }
    pen.restore();
  }

  private numbers(pen: CanvasRenderingContext2D, theme: Sheet["theme"], pane: ShownPane, light: LightPaint, seen: readonly boolean[]): void {
    const [nx] = light.points;
    const taken: Spot[] = [];
    pen.save();
    pen.font = `10.5px ${theme.numbers}`;
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.lineWidth = 3;
    pen.strokeStyle = theme.ground;
    pen.fillStyle = theme.text;
    light.texts.forEach((words, i) => {
      if (!seen[i] || !words) return;
      const spot = at(pane, middleOf(light, i, nx));
      if (!spot || taken.some(({ x, y }) => Math.abs(x - spot.x) < NUMBERS_PX[0] && Math.abs(y - spot.y) < NUMBERS_PX[1])) return;
      taken.push(spot);
      pen.strokeText(words, spot.x, spot.y);
      pen.fillText(words, spot.x, spot.y);
    });
    pen.restore();
  }

  /** Which cells nothing stands before. */
  private cellsSeen(pane: ShownPane, light: LightPaint): boolean[] {
    const [nx, ny] = light.points;
    const known = this.seen.get(pane.pane.id);
    const from = `${pane.camera.matrixWorld.elements.map((one) => one.toFixed(4)).join()} ${pane.width} ${pane.height} ${this.stage.solids.version}`;
    if (known?.of === light && known.from === from) return known.cells;
    const all = pane.pane.view === "plan" || nx * ny > ASKED_MOST;
    const eye = new THREE.Vector3().setFromMatrixPosition(pane.camera.matrixWorld);
    const cells = Array.from({ length: nx * ny }, (_, i) => {
      if (all) return true;
      const place = new THREE.Vector3(...middleOf(light, i, nx));
      const spot = project(pane, place);
      const surface = spot && this.stage.surfaceAt(pane, spot.x, spot.y);
      if (!surface) return spot !== null;
      return pane.camera instanceof THREE.PerspectiveCamera
        ? surface.point.distanceTo(eye) > place.distanceTo(eye) - BEFORE_M
        : surface.distance > this.stage.ray(pane, spot.x, spot.y).ray.origin.distanceTo(place) - BEFORE_M;
    });
    this.seen.set(pane.pane.id, { of: light, from, cells });
    return cells;
  }

  private seat({ pen, theme }: Sheet, pane: ShownPane, seat: Asked["seats"][number]): void {
    const spot = at(pane, seat.at);
    if (!spot) return;
    pen.beginPath();
    pen.arc(spot.x, spot.y, seat.chosen ? SEAT_PX * 1.7 : SEAT_PX, 0, 2 * Math.PI);
    pen.fillStyle = seat.colour;
    pen.strokeStyle = seat.chosen ? theme.active : theme.ground;
    pen.lineWidth = seat.chosen ? 2 : 1;
    pen.fill();
    pen.stroke();
  }

  private ray(sheet: Sheet, pane: ShownPane, ray: Asked["rays"][number]): void {
    const [from, to] = [new THREE.Vector3(...ray.from), new THREE.Vector3(...ray.to)];
    sheet.line(pane, from, to, ray.blocked ? sheet.theme.attention : sheet.theme.active, ray.blocked ? [4, 4] : [], 0.8 + 2.4 * ray.share);
    sheet.bracket(pane, from, ray.blocked ? sheet.theme.attention : sheet.theme.active);
    const spot = project(pane, from);
    if (spot && ray.text) sheet.text(ray.text, spot.x, spot.y - 27, ray.blocked ? sheet.theme.attention : sheet.theme.text, "center", 10.5);
  }

  /** The note whose pin is under the pointer: those drawn last lie on top. */
  pinAt(pane: ShownPane, x: number, y: number): string | null {
    const found = this.asked.pins.findLast((pin) => {
      const spot = at(pane, pin.at);
      return spot !== null && Math.hypot(spot.x - x, spot.y - PIN_UP_PX - y) < PIN_PX + 1;
    });
    return found?.id ?? null;
  }

  private pin({ pen, theme }: Sheet, pane: ShownPane, pin: Asked["pins"][number]): void {
    const spot = at(pane, pin.at);
    if (!spot) return;
    const r = pin.chosen ? PIN_PX : PIN_PX - 1.5;
    pen.save();
    pen.globalAlpha = pin.done ? 0.55 : 1;
    pen.strokeStyle = pin.chosen ? theme.active : theme.ground;
    pen.fillStyle = pin.done ? theme.dim : theme.attention;
    pen.lineWidth = pin.chosen ? 2 : 1.4;
    pen.beginPath();
    pen.moveTo(spot.x, spot.y);
    pen.arc(spot.x, spot.y - PIN_UP_PX, r, Math.PI * 0.8, Math.PI * 2.2);
    pen.closePath();
    pen.fill();
    pen.stroke();
    pen.fillStyle = theme.ground;
    pen.font = `600 10px ${theme.numbers}`;
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.fillText(pin.text, spot.x, spot.y - PIN_UP_PX);
    pen.restore();
  }
}

/** The middle of a cell. */
function middleOf(light: LightPaint, i: number, nx: number): Vec3 {
  const corner = Math.floor(i / nx) * (nx + 1) + (i % nx);
  const [a, b] = [light.places[corner], light.places[corner + nx + 2]];
  return a && b ? [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2] : [0, 0, 0];
}
