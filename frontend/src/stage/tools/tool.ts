import type { Measures } from "../measures";
import type * as THREE from "three";
import type { CarrierMark, Mounted, RailLine, StageEvents } from "../data";
import type { BeamState } from "../scene/beams";
import type { Solids } from "../scene/solids";
import type { ShownPane } from "../view/panes";
import type { Sheet } from "./sheet";

/** Where the pointer is, and which keys are held with it. */
export interface At {
  pane: ShownPane;
  x: number;
  y: number;
  shift: boolean;
  ctrl: boolean;
}

/** The surface under a place of the stage, and whose it is. */
export interface Surface {
  point: THREE.Vector3;
  normal: THREE.Vector3;
  id: string;
  distance: number;
}

/** What tools know of the stage. */
export interface ToolStage {
  readonly events: StageEvents;
  readonly state: BeamState;
  readonly solids: Solids;
  readonly mounted: readonly Mounted[];
  readonly carriers: readonly CarrierMark[];
  readonly measures: Measures;
  readonly rails: Readonly<Record<string, readonly RailLine[]>>;
  ray(pane: ShownPane, x: number, y: number): THREE.Raycaster;
  surfaceAt(pane: ShownPane, x: number, y: number): Surface | null;
  /** What a click would take. */
  thingAt(pane: ShownPane, x: number, y: number): string | null;
  /** What a box takes: what is wholly inside of it, or what it touches. */
  inBox(pane: ShownPane, from: { x: number; y: number }, to: { x: number; y: number }, touching: boolean): string[];
  /** Draw again what lies over the picture. */
  touchOverlay(): void;
}

/** What is held with the button down, until it is let go. */
export interface Hold {
  move(at: At): void;
  end(at: At): void;
  /** Escape, or the pointer was taken away. Without it Escape leaves it held. */
  cancel?(): void;
}

/** A tool of the stage: what the pointer does in it, and what it draws over the picture. */
export abstract class StageTool {
  constructor(protected readonly stage: ToolStage) {}

  /** Whether things light up under the pointer. */
  readonly lights: boolean = false;

  /** The pointer moves without a button. Returns the name of the handle under it. */
  hover(_at: At): string | null {
    return null;
  }

  /** The button goes down: what is held then, or null, and it is a click where it comes up. */
  press(_at: At): Hold | null {
    return null;
  }

  /** What a press becomes that has moved away before it came up. */
  pull(_from: At): Hold | null {
    return null;
  }

  click(_at: At): void {}

  /** Another tool is taken. */
  leave(): void {}

  draw(_sheet: Sheet, _pane: ShownPane, _hot: string | null): void {}
}

/** A tool that tells where the pointer is, and where it has clicked: what comes of that is decided elsewhere. */
export abstract class TellingTool extends StageTool {
  protected abstract tell(at: At, phase: "hover" | "click"): void;

  override hover(at: At): string | null {
    this.tell(at, "hover");
    return null;
  }

  override click(at: At): void {
    this.tell(at, "click");
  }
}
