import * as THREE from "three";
import type { Spot as Flat } from "../gate";
import { type Able, chord, clear, draggedTo, featuresOf, type Gate, type Grip, gripsOf, SIDES } from "../gate";
import type { Posed } from "../scene/beams";
import type { ShownPane } from "../view/panes";
import { onSetLine } from "./onset";
import { project, type Sheet } from "./sheet";
import { type At, type Hold, StageTool } from "./tool";

/** A fixture whose blades are taken hold of, and what they can do. */
export interface Bladed {
  id: string;
  able: Able;
}

/** Where its light is less wide the grips have no names. */
const NAMED_PX = 90;
/** Blades of no more than so many are drawn at once. */
const MOST = 4;
const NEAR_PX = 9;
/** A beam that meets nothing is drawn as if on a wall so far away, metres. */
const NOWHERE_M = 12;
/** How many straight pieces make an edge, and the rim, where they lie on the set. */
const [PIECES, RIM] = [10, 90];
/** A little off the surface is still on it. */
const WITHIN = 1.6;

/** One head: its blades as the picture has them, and where they lie on the set. */
interface Lit extends Bladed {
  gate: Gate;
  posed: Posed;
  up: THREE.Vector3;
  apex: THREE.Vector3;
  wide: number;
  grips: { grip: Grip; at: THREE.Vector3 }[];
  edges: (THREE.Vector3[] | null)[];
  /** Where no blade stands before it. */
  rim: (THREE.Vector3 | null)[];
}

/** Blades and barn doors on the lit surface itself: edges, their ends and the whole set are dragged where they fall. */
export class BladeTool extends StageTool {
  private shown: readonly Bladed[] = [];
  private held: { id: string; gate: Gate } | null = null;
  private readonly known = new Map<string, { key: string; lit: Lit }>();

  show(heads: readonly Bladed[]): void {
    this.shown = heads.slice(0, MOST);
    this.stage.touchOverlay();
  }

  private heads(pane: ShownPane): Lit[] {
    return this.shown.flatMap((one) => this.lit(one, pane.pane.picture) ?? []);
  }

  /** Rays are thrown again only where something of it has changed. */
  private lit({ id, able }: Bladed, picture: string): Lit | null {
    const { state, solids } = this.stage;
    const posed = state.pose(id, picture);
    const row = state.rowOf(id);
    if (!posed || row === undefined) return null;
    const gate = this.held?.id === id ? this.held.gate : state.gate(row, picture);
    const { half, apex } = state.cone(row, picture);
    const key = [picture, half, solids.version, ...posed.lens.toArray(), ...posed.along.toArray(), ...posed.side.toArray(), gate.turn, ...gate.blades.flatMap((one) => [one.depth, one.angle])].join();
    const known = this.known.get(`${id} ${picture}`);
    if (known?.key === key) return known.lit;
    const lit: Lit = {
      id, able, gate, posed, wide: Math.tan(half), up: new THREE.Vector3().crossVectors(posed.side, posed.along),
      apex: posed.lens.clone().addScaledVector(posed.along, -apex), grips: [], edges: [], rim: [],
    };
    const on = (spot: Flat) => this.onSet(lit, spot);
    lit.grips = gripsOf(gate, able).map((grip) => ({ grip, at: on(grip) }));
    lit.edges = SIDES.map((_, k) => {
      const ends = chord(gate, k);
      return ends && Array.from({ length: PIECES + 1 }, (__, i) => on({ x: ends[0].x + ((ends[1].x - ends[0].x) * i) / PIECES, y: ends[0].y + ((ends[1].y - ends[0].y) * i) / PIECES }));
    });
    lit.rim = Array.from({ length: RIM + 1 }, (_, i) => ({ x: Math.cos((2 * Math.PI * i) / RIM), y: Math.sin((2 * Math.PI * i) / RIM) })).map((spot) => (clear(gate, spot) ? on(spot) : null));
    this.known.set(`${id} ${picture}`, { key, lit });
    return lit;
  }

  /** Where the light through a place of the gate falls. */
  private onSet(lit: Lit, { x, y }: Flat): THREE.Vector3 {
    const way = lit.posed.along.clone().addScaledVector(lit.posed.side, x * lit.wide).addScaledVector(lit.up, y * lit.wide).normalize();
    // It comes from the virtual apex, but nothing behind the lens is in its way.
    const from = lit.apex.clone().addScaledVector(way, lit.apex.distanceTo(lit.posed.lens) / way.dot(lit.posed.along) + 0.02);
    const caster = new THREE.Raycaster(from, way);
    return this.stage.solids.hit(caster, false)?.point ?? lit.apex.clone().addScaledVector(way, NOWHERE_M);
  }

  /** Where in the gate a place of the show is seen; null behind the lens. */
  private inGate(lit: Lit, place: THREE.Vector3): Flat | null {
    const from = place.clone().sub(lit.apex);
    const z = from.dot(lit.posed.along);
    return z > 0.01 ? { x: from.dot(lit.posed.side) / (z * lit.wide), y: from.dot(lit.up) / (z * lit.wide) } : null;
  }

  private under({ pane, x, y }: At): { lit: Lit; grip: Grip; at: THREE.Vector3 } | null {
    let best: { lit: Lit; grip: Grip; at: THREE.Vector3; far: number } | null = null;
    for (const lit of this.heads(pane)) {
      for (const { grip, at } of lit.grips) {
        const spot = project(pane, at);
        const far = spot ? Math.hypot(spot.x - x, spot.y - y) : Infinity;
        if (far < (best?.far ?? NEAR_PX)) best = { lit, grip, at, far };
      }
    }
    return best;
  }

  override hover(at: At): string | null {
    const under = this.under(at);
    return under && named(under.lit.id, under.grip);
  }

  override press(from: At): Hold | null {
    const under = this.under(from);
    if (!under) return null;
    const { lit, grip } = under;
    const before = lit.gate;
    let now = before;
    const values = () => featuresOf(before, now, lit.able);
    return {
      move: (at) => {
        const to = this.placeUnder(at, lit, under.at);
        if (!to) return;
        now = draggedTo(before, lit.able, grip, to);
        this.held = { id: lit.id, gate: now };
        this.stage.events.onBlades(lit.id, values(), "move");
        this.stage.touchOverlay();
      },
      end: () => {
        this.held = null;
        if (now !== before) this.stage.events.onBlades(lit.id, values(), "end");
      },
      cancel: () => {
        this.held = null;
        this.stage.touchOverlay();
      },
    };
  }

  /** Where in the gate the pointer is: on the set, else on the plane across the beam where the grip was. */
  private placeUnder({ pane, x, y }: At, lit: Lit, was: THREE.Vector3): Flat | null {
    const surface = this.stage.surfaceAt(pane, x, y);
    const on = surface && this.inGate(lit, surface.point);
    if (on && Math.hypot(on.x, on.y) < WITHIN) return on;
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(lit.posed.along, was);
    const place = this.stage.ray(pane, x, y).ray.intersectPlane(plane, new THREE.Vector3());
    return place && this.inGate(lit, place);
  }

  override click(at: At): void {
    const id = this.stage.thingAt(at.pane, at.x, at.y);
    if (id) this.stage.events.onSelect([id], at.shift || at.ctrl);
  }

  override leave(): void {
    this.held = null;
    this.known.clear();
    this.show([]);
  }

  override draw(sheet: Sheet, pane: ShownPane, hot: string | null): void {
    const heads = this.heads(pane);
    for (const lit of heads) {
      const { theme } = sheet;
      // Of one head alone edges are named; of several, the one that is pointed at.
      const roomy = heads.length === 1 && wideOf(pane, lit) > NAMED_PX;
      onSetLine(sheet, pane, lit.apex, lit.rim, theme.selected, 1);
      for (const edge of lit.edges) if (edge) onSetLine(sheet, pane, lit.apex, edge, theme.active, 2);
      for (const { grip, at } of lit.grips) this.drawGrip(sheet, pane, grip, at, hot === named(lit.id, grip), roomy);
    }
  }

  private drawGrip(sheet: Sheet, pane: ShownPane, grip: Grip, at: THREE.Vector3, hot: boolean, roomy: boolean): void {
    const spot = project(pane, at);
    if (!spot) return;
    const { pen, theme } = sheet;
    pen.strokeStyle = pen.fillStyle = hot ? theme.text : theme.active;
    pen.lineWidth = 1.6;
    pen.beginPath();
    if (grip.part === "set") pen.arc(spot.x, spot.y, 5.5, 0.6, 2 * Math.PI - 0.4);
    else pen.arc(spot.x, spot.y, grip.part === "edge" ? 4.5 : 3.2, 0, 2 * Math.PI);
    if (grip.part === "edge") pen.fill();
    else pen.stroke();
    const says = grip.part === "edge" ? SIDES[grip.blade] : grip.part === "set" ? "turn all" : "";
    if (says && (hot || roomy)) sheet.text(says, spot.x + 9, spot.y - 9, hot ? theme.text : theme.active, "left", 10.5);
  }
}

const named = (id: string, grip: Grip): string => `${id} ${grip.part} ${grip.blade}`;

/** How wide a head's light is in a pane, pixels. */
function wideOf(pane: ShownPane, lit: Lit): number {
  const spots = lit.rim.flatMap((point) => (point && project(pane, point)) ?? []);
  const of = (values: number[]) => Math.max(...values, 0) - Math.min(...values, Infinity);
  return spots.length ? Math.max(of(spots.map((one) => one.x)), of(spots.map((one) => one.y))) : 0;
}
