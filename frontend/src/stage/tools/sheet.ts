import * as THREE from "three";
import type { ShownPane } from "../view/panes";
import { type Measures, METRIC } from "../measures";

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

/** A place on the stage, CSS pixels. */
export interface Spot {
  x: number;
  y: number;
}

const RING = 20;

/** A point of the show in CSS pixels of the stage; null behind the camera. */
export function project(pane: ShownPane, p: THREE.Vector3): Spot | null {
  const clip = p.clone().project(pane.camera);
  if (clip.z > 1 || clip.z < -1) return null;
  return { x: pane.left + (clip.x * 0.5 + 0.5) * pane.width, y: pane.top + (0.5 - clip.y * 0.5) * pane.height };
}

/** What is drawn on over the picture: the pen, the theme, and the strokes that all have in common. */
export class Sheet {
  constructor(
    readonly pen: CanvasRenderingContext2D,
    readonly theme: StageTheme,
  ) {}

  /** How lengths are said. */
  measures: Measures = METRIC;

  line(pane: ShownPane, a: THREE.Vector3, b: THREE.Vector3, colour: string, dash: number[] = [], width = 1): void {
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

  text(words: string, x: number, y: number, colour: string, align: CanvasTextAlign = "center", size = 11): void {
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

  /** A length beside the middle of its line. */
  length(at: Spot | null, metres: number, colour: string): void {
    if (at && metres > 0.005) this.text(this.measures.said(metres), at.x, at.y - 9, colour, "center", 10.5);
  }

  bracket(pane: ShownPane, p: THREE.Vector3, colour: string): void {
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

  box(pane: ShownPane, box: THREE.Box3 | null, colour: string, dash: number[] = []): void {
    if (!box) return;
    const corner = (i: number) =>
      new THREE.Vector3(i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z);
    for (const [a, b] of [[0, 1], [1, 3], [3, 2], [2, 0], [4, 5], [5, 7], [7, 6], [6, 4], [0, 4], [1, 5], [2, 6], [3, 7]] as const) {
      this.line(pane, corner(a), corner(b), colour, dash, 1.2);
    }
  }
}
