import * as THREE from "three";
import type { PointedAt, PointingShown, Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import { Handle } from "./handles";
import { onSetLine } from "./onset";
import { project, type Sheet } from "./sheet";
import { type At, type Hold, StageTool } from "./tool";

/** How near to a focus point's mark the pointer takes it. */
const MARK_PX = 11;
/** The ring of a landing beam has so many sides. */
const SIDES = 28;
/** No ring is drawn wider than this, in metres. */
const WIDEST_M = 12;
/** The rims of so many heads are thrown on the set itself; of more they are drawn round. */
const ON_SET = 16;
/** What is nearer to a lens is its own body. */
const FROM_M = 0.15;
const UP = new THREE.Vector3(0, 0, 1);

/** Two ways across a way, square to each other. */
function aside(way: THREE.Vector3): { across: THREE.Vector3; along: THREE.Vector3 } {
  const across = new THREE.Vector3().crossVectors(way, Math.abs(way.z) > 0.98 * way.length() ? new THREE.Vector3(1, 0, 0) : UP).normalize();
  return { across, along: new THREE.Vector3().crossVectors(across, way).normalize() };
}

/** The pointer over a place points the selection there; a click takes it. The top of the plumb line is dragged. */
export class AimTool extends StageTool {
  private shown: PointingShown | null = null;
  /** Where the rims of few heads fall on the set, by head. */
  private readonly rings = new Map<PointingShown["heads"][number], THREE.Vector3[]>();

  /** What is drawn: the place with its plumb line, and where each beam would go. */
  show(shown: PointingShown | null): void {
    if (shown === this.shown) return;
    // A place that was taken some time ago stands over whatever is there now.
    this.rings.clear();
    this.shown = shown?.taken && !shown.foot ? { ...shown, foot: this.below(new THREE.Vector3(...shown.target)) } : shown;
    this.stage.touchOverlay();
  }

  private top(): Handle | null {
    return this.shown?.taken ? new Handle("height", new THREE.Vector3(...this.shown.target), UP) : null;
  }

  private onTop({ pane, x, y }: At): boolean {
    const at = this.shown?.taken && project(pane, new THREE.Vector3(...this.shown.target));
    return Boolean(at && Math.hypot(at.x - x, at.y - y) < MARK_PX);
  }

  /** Whether the pointer is on the foot of the plumb line, or where there is none on the place itself. */
  private onFoot({ pane, x, y }: At): boolean {
    const { shown } = this;
    const at = shown?.taken && shown.foot && project(pane, new THREE.Vector3(...shown.foot));
    return Boolean(at && Math.hypot(at.x - x, at.y - y) < MARK_PX);
  }

  override hover(at: At): string | null {
    if (this.onTop(at)) return "height";
    if (this.onFoot(at)) return "place";
    this.stage.events.onAim(this.under(at), "hover");
    return null;
  }

  override press(at: At): Hold | null {
    if (!this.onTop(at) && this.onFoot(at)) {
      return {
        move: (now) => this.stage.events.onAim(this.under(now), "drag"),
        end: (now) => this.stage.events.onAim(this.under(now), "click"),
        cancel: () => this.stage.events.onRaise(null, "end"),
      };
    }
    const top = this.top();
    if (!top || !this.onTop(at)) return null;
    const to = (now: At) => top.along(this.stage.ray(at.pane, now.x, now.y).ray)?.z;
    let last: number | null = null;
    return {
      move: (now) => {
        const height = to(now);
        if (height === undefined) return;
        const step = this.stage.measures.move;
        last = now.ctrl ? height : Math.round(height / step) * step;
        this.stage.events.onRaise(last, "move");
      },
      end: () => {
        if (last !== null) this.stage.events.onRaise(last, "end");
      },
      cancel: () => this.stage.events.onRaise(null, "end"),
    };
  }

  override click(at: At): void {
    const place = this.under(at);
    if (place) this.stage.events.onAim(place, "click");
  }

  override leave(): void {
    this.show(null);
    this.stage.events.onAim(null, "hover");
  }

  /** What is under the pointer: a focus point's mark, else a face and what is below it. */
  private under({ pane, x, y }: At): PointedAt | null {
    const mark = this.stage.carriers.find(({ position, focus }) => {
      const at = focus ? project(pane, new THREE.Vector3(...position)) : null;
      return at !== null && Math.hypot(at.x - x, at.y - y) < MARK_PX;
    });
    if (mark) return { point: mark.position, normal: [0, 0, 1], foot: this.below(new THREE.Vector3(...mark.position)), thing: null, focus: mark.id };
    const surface = this.stage.surfaceAt(pane, x, y);
    if (!surface) return null;
    const upright = Math.abs(surface.normal.z) < 0.5;
    const point = surface.point.toArray() as Vec3;
    return { point, normal: surface.normal.toArray() as Vec3, foot: upright ? this.below(surface.point) : point, thing: surface.id, focus: null };
  }

  private below(from: THREE.Vector3): Vec3 | null {
    const caster = new THREE.Raycaster(from.clone().addScaledVector(UP, -0.01), UP.clone().negate());
    caster.firstHitOnly = true;
    return (this.stage.solids.hit(caster, false)?.point.toArray() as Vec3 | undefined) ?? null;
  }

  override draw(sheet: Sheet, pane: ShownPane, hot: string | null): void {
    const { shown } = this;
    if (!shown) return;
    for (const head of shown.heads) this.drawHead(sheet, pane, head);
    if (shown.from) this.drawLine(sheet, pane, shown.from, shown.target);
    this.drawPlumb(sheet, pane, shown, hot);
  }

  private drawHead(sheet: Sheet, pane: ShownPane, head: PointingShown["heads"][number]): void {
    const { theme } = sheet;
    const [lens, at] = [new THREE.Vector3(...head.lens), new THREE.Vector3(...head.at)];
    const wrong = head.missing > 0 || head.blocked !== null;
    const colour = wrong ? theme.attention : theme.selected;
    sheet.line(pane, lens, at, colour, wrong ? [5, 4] : [], 1.1);
    if ((this.shown?.heads.length ?? 0) <= ON_SET) onSetLine(sheet, pane, lens, this.ring(head, lens, at), colour, 1);
    else this.drawRound(sheet, pane, head, lens, at, colour);
    if (!wrong) return;
    const spot = project(pane, lens.clone().lerp(at, 0.3));
    const why = head.missing > 0 ? `${head.label}: ${head.missing.toFixed(1)}° short` : `${head.label}: behind ${head.blocked ?? ""}`;
    if (spot) sheet.text(why, spot.x, spot.y, theme.attention, "center", 10.5);
  }

  /** The rim of a head's light on whatever it falls on; thrown once for each head that is told. */
  private ring(head: PointingShown["heads"][number], lens: THREE.Vector3, at: THREE.Vector3): THREE.Vector3[] {
    const known = this.rings.get(head);
    if (known) return known;
    const way = at.clone().sub(lens);
    const { across, along } = aside(way);
    const far = way.length();
    const made = Array.from({ length: SIDES + 1 }, (_, i) => {
      const turn = (i / SIDES) * 2 * Math.PI;
      const out = far * Math.tan(head.half);
      const to = way.clone().addScaledVector(across, out * Math.cos(turn)).addScaledVector(along, out * Math.sin(turn)).normalize();
      const caster = new THREE.Raycaster(lens.clone().addScaledVector(to, FROM_M), to);
      return this.stage.solids.hit(caster, false)?.point ?? lens.clone().addScaledVector(to, far);
    });
    this.rings.set(head, made);
    return made;
  }

  private drawRound(sheet: Sheet, pane: ShownPane, head: PointingShown["heads"][number], lens: THREE.Vector3, at: THREE.Vector3, colour: string): void {
    const { pen } = sheet;
    const way = at.clone().sub(lens);
    const wide = Math.min(way.length() * Math.tan(head.half), WIDEST_M);
    const { across, along } = aside(way);
    pen.strokeStyle = colour;
    pen.lineWidth = 1;
    pen.beginPath();
    for (let i = 0; i <= SIDES; i++) {
      const turn = (i / SIDES) * 2 * Math.PI;
      const spot = project(pane, at.clone().addScaledVector(across, wide * Math.cos(turn)).addScaledVector(along, wide * Math.sin(turn)));
      if (!spot) return;
      pen[i ? "lineTo" : "moveTo"](spot.x, spot.y);
    }
    pen.stroke();
  }

  private drawLine(sheet: Sheet, pane: ShownPane, from: Vec3, to: Vec3): void {
    sheet.line(pane, new THREE.Vector3(...from), new THREE.Vector3(...to), sheet.theme.active, [6, 4], 1.6);
  }

  /** The place aimed at on its plumb line, with how high it is over what is under it. */
  private drawPlumb(sheet: Sheet, pane: ShownPane, shown: PointingShown, handle: string | null): void {
    const hot = handle === "height";
    const { pen, theme } = sheet;
    const target = new THREE.Vector3(...shown.target);
    const at = project(pane, target);
    if (!at) return;
    if (shown.foot && shown.target[2] - shown.foot[2] > 0.02) {
      const foot = new THREE.Vector3(...shown.foot);
      sheet.line(pane, target, foot, theme.active, [], 1.4);
      const below = project(pane, foot);
      if (below) {
        pen.strokeStyle = handle === "place" ? theme.text : theme.active;
        pen.beginPath();
        pen.ellipse(below.x, below.y, 8, 3, 0, 0, 2 * Math.PI);
        pen.stroke();
      }
    }
    pen.strokeStyle = hot ? theme.text : theme.active;
    pen.lineWidth = shown.taken ? 2 : 1.4;
    pen.beginPath();
    pen.arc(at.x, at.y, 6, 0, 2 * Math.PI);
    for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
      pen.moveTo(at.x + dx * 4, at.y + dy * 4);
      pen.lineTo(at.x + dx * 11, at.y + dy * 11);
    }
    pen.stroke();
    if (shown.taken) {
      pen.fillStyle = hot ? theme.text : theme.active;
      pen.beginPath();
      pen.arc(at.x, at.y, 3, 0, 2 * Math.PI);
      pen.fill();
    }
    if (shown.said) sheet.text(shown.said, at.x + 16, at.y - 14, theme.active, "left", 11);
  }
}
